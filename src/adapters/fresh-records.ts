import { isDone } from '../core/journal/call-end.ts';
import { statSync } from 'node:fs';
import path from 'node:path';
import type { FreshRecords } from '../core/engine/recorded.ts';
import { CallRecords, type RecordedCall } from '../core/journal/call-records.ts';
import { listRuns, readRun, type RecordedRun } from './journal-reader.ts';

/** Older responses of a project's runs, by what was sent; each run is read once, and only those that are young enough. */
export function freshRecords(recordFolder: string, own: string): FreshRecords {
  const read = new Map<string, DoneCalls>();
  const callsOf = (run: string): DoneCalls => {
    let calls = read.get(run);
    if (!calls) read.set(run, (calls = new DoneCalls(readRun(recordFolder, run))));
    return calls;
  };
  return (requestFingerprint, maxAgeMs) => {
    const oldest = Date.now() - maxAgeMs;
    for (const run of listRuns(recordFolder)) {
      if (run === own) continue;
      const modified = statSync(path.join(recordFolder, 'runs', run, 'journal.ndjson'), {
        throwIfNoEntry: false,
      })?.mtimeMs;
      if (modified === undefined || modified < oldest) return undefined;
      const call = callsOf(run).call(requestFingerprint);
      if (call && call.exchanges.every(({ answered }) => answered.at >= oldest)) return { call, body: call.body };
    }
    return undefined;
  };
}

/** The calls that a run has done itself, by what was sent. */
class DoneCalls {
  private readonly records: CallRecords | undefined;
  private readonly keys = new Map<string, string[]>();

  constructor(record: RecordedRun | undefined) {
    this.records = record && new CallRecords(record.id, record.journal, record);
    for (const event of record?.journal ?? []) {
      if (event.type !== 'ended' || event.requestFingerprint === undefined || event.from || !isDone(event)) continue;
      this.keys.set(event.requestFingerprint, [event.key, ...(this.keys.get(event.requestFingerprint) ?? [])]);
    }
  }

  /** The last one that is recorded whole. */
  call(requestFingerprint: string): RecordedCall | undefined {
    const calls = (this.keys.get(requestFingerprint) ?? []).map((key) => this.records!.call(key));
    return calls.find((call) => call !== undefined && isWhole(call));
  }
}

/** Nothing of it was masked, and all of it is there. */
function isWhole({ exchanges }: RecordedCall): boolean {
  return (
    exchanges.length > 0 && exchanges.every(({ answered: { body } }) => !body || (!body.masked && !('dropped' in body)))
  );
}
