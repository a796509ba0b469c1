import { statSync } from 'node:fs';
import path from 'node:path';
import { listRuns, readRun, endsOfRun, type RecordedRun } from '../adapters/journal-reader.ts';
import type { LastResponse, LastRun } from '../core/editor/recorded.ts';
import { MAX_SHOWN } from '../core/editor/members.ts';
import type { JournalEvent } from '../core/journal/events.ts';
import type { Stored } from '../core/journal/records.ts';
import { exchangesBack, findExchange, tookOf, type ExchangeRecord } from '../core/report/exchange.ts';
import { storedBriefly } from '../core/report/history.ts';
import { valueOfBound } from '../core/report/bound.ts';
import { cutAt } from '../core/value/show.ts';
import type { Maybe } from '../core/value/value.ts';
import { bodyJson, bodyText, wholeValue } from '../runner/record.ts';

/** Events of a long record that are looked at, from its end: what was last is there. */
const MAX_EVENTS = 20_000;
/** Bytes of a body that is read for its members. */
const MAX_BODY = 4 * 1024 * 1024;

/** The last runs of the chains of a project, each read when it is first asked for, and anew when something was recorded. */
export class LastRuns {
  private readonly known = new Map<string, Readonly<{ stamp: string; run: LastRun | undefined }>>();

  constructor(private readonly recordFolder: string) {}

  /** The last run of a chain file by its path in the project; without one, the last of a chain that uses it. */
  of(chain: string, users: () => readonly string[]): LastRun | undefined {
    const known = this.known.get(chain);
    // Not every editor says that something was recorded.
    const folder = stampOf(path.join(this.recordFolder, 'runs'));
    if (known && known.stamp === folder + (known.run ? this.stampOfRun(known.run.id) : '')) return known.run;
    const record = this.newest((each) => each === chain) ?? this.newest((each) => users().includes(each));
    const run = record && lastRun(record, chain);
    this.known.set(chain, { stamp: folder + (run ? this.stampOfRun(run.id) : ''), run });
    return run;
  }

  private newest(fits: (chain: string) => boolean): RecordedRun | undefined {
    const id = listRuns(this.recordFolder).find((each) => {
      const [first] = endsOfRun(this.recordFolder, each);
      return first?.type === 'run' && fits(first.chain);
    });
    return id === undefined ? undefined : readRun(this.recordFolder, id);
  }

  private stampOfRun(id: string): string {
    return stampOf(path.join(this.recordFolder, 'runs', id, 'journal.ndjson'));
  }
}

function stampOf(file: string): string {
  const { mtimeMs = 0, size = 0 } = statSync(file, { throwIfNoEntry: false }) ?? {};
  return `${mtimeMs} ${size} `;
}

/** What a record says of its run, gathered at the first question. */
function lastRun(record: RecordedRun, chain: string): LastRun {
  let binds: ReadonlyMap<string, Stored> | undefined;
  let exchanges: readonly ExchangeRecord[] | undefined;
  const responses = new Map<string, LastResponse | undefined>();
  const bound = (name: string) => (binds ??= lastBinds(record, chain)).get(name);
  const [first] = record.journal;
  return {
    id: record.id,
    when: first ? new Date(first.at).toISOString().slice(0, 16).replace('T', ' ') : '',
    shown: (name) => {
      const stored = bound(name);
      return stored && cutAt(storedBriefly(stored), MAX_SHOWN);
    },
    value: (name) => {
      const stored = bound(name);
      return stored && valueOf(name, stored, record);
    },
    response: (call) => {
      if (!responses.has(call)) {
        exchanges ??= [...exchangesBack(endOf(record))].filter(
          ({ sent, answered }) => sent.purpose === 'call' && answered,
        );
        responses.set(call, responseOf(findExchange(exchanges, call), record));
      }
      return responses.get(call);
    },
  };
}

function responseOf(found: ExchangeRecord | undefined, record: RecordedRun): LastResponse | undefined {
  const answered = found?.answered;
  if (!found || !answered) return undefined;
  const { method, url } = found.sent.request;
  const isShort = answered.body !== undefined && answered.body.size <= MAX_BODY;
  const body = isShort ? (bodyJson(record, answered.body) ?? bodyText(record, answered.body)) : undefined;
  return { method, url, status: answered.status, tookMs: tookOf(found), headers: answered.headers, body };
}

function lastBinds(record: RecordedRun, chain: string): ReadonlyMap<string, Stored> {
  const found = new Map<string, Stored>();
  for (const event of endOf(record).backwards()) {
    if (event.type !== 'ended') continue;
    for (const { name, value, source } of event.binds ?? [])
      if (!found.has(name) && path.basename(source.file) === path.basename(chain)) found.set(name, value);
  }
  const [first] = record.journal;
  if (first?.type === 'run' && first.chain === chain)
    for (const [name, value] of Object.entries(first.inputs)) found.set(name, value);
  return found;
}

/** The last events of a record. */
function endOf({ journal }: RecordedRun): Readonly<{ backwards(): Iterable<JournalEvent> }> {
  return {
    *backwards() {
      let count = 0;
      for (const event of journal.backwards()) {
        yield event;
        if (++count >= MAX_EVENTS) return;
      }
    },
  };
}

function valueOf(name: string, stored: Stored, record: RecordedRun): Maybe {
  if ('body' in stored) return stored.body.size <= MAX_BODY ? bodyJson(record, stored.body) : undefined;
  const bound = { name, stored, call: undefined };
  return valueOfBound(bound) ?? wholeValue(bound, record);
}
