import { statSync } from 'node:fs';
import path from 'node:path';
import type { FreshRecords } from '../core/engine/call/replay.ts';
import { CallRecords, isDone, type RecordedCall } from '../core/journal/call-records.ts';
import { listRuns, readRun } from './journal-reader.ts';

/** Older responses of a project's runs, by what was sent; each run is read once, and only those that are young enough. */
export function freshRecords(recordFolder: string, own: string): FreshRecords {
  const read = new Map<string, ReadonlyMap<string, RecordedCall> & { records?: CallRecords }>();
  const callsOf = (run: string): ReadonlyMap<string, RecordedCall> & { records?: CallRecords } => {
    let calls = read.get(run);
    if (!calls) {
      const recorded = readRun(recordFolder, run);
      const found: Map<string, RecordedCall> & { records?: CallRecords } = new Map<string, RecordedCall>();
      if (recorded) {
        found.records = new CallRecords(run, recorded.events, recorded.body);
        for (const event of recorded.events) {
          if (event.type !== 'ended' || event.sentPrint === undefined || event.from || !isDone(event)) continue;
          const call = found.records.call(event.key);
          if (call && isWhole(call)) found.set(event.sentPrint, call);
        }
      }
      read.set(run, (calls = found));
    }
    return calls;
  };
  return (sentPrint, maxAgeMs) => {
    const oldest = Date.now() - maxAgeMs;
    for (const run of listRuns(recordFolder)) {
      if (run === own) continue;
      const modified = statSync(path.join(recordFolder, 'runs', run, 'journal.ndjson'), {
        throwIfNoEntry: false,
      })?.mtimeMs;
      if (modified === undefined || modified < oldest) return undefined;
      const calls = callsOf(run);
      const call = calls.get(sentPrint);
      if (call && call.exchanges.every(({ answered }) => answered.at >= oldest))
        return { call, body: calls.records!.body };
    }
    return undefined;
  };
}

/** Nothing of it was masked, and all of it is there. */
function isWhole({ exchanges }: RecordedCall): boolean {
  return (
    exchanges.length > 0 && exchanges.every(({ answered: { body } }) => !body || (!body.masked && !('dropped' in body)))
  );
}
