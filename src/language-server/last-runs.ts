import { listRuns, readRun, endsOfRun, type RecordedRun } from '../adapters/journal-reader.ts';
import type { LastResponse, LastRun } from '../core/editor/recorded.ts';
import { MAX_SHOWN } from '../core/editor/members.ts';
import { isNamed, isUndo } from '../core/journal/address.ts';
import type { JournalEvent } from '../core/journal/events.ts';
import type { Stored } from '../core/journal/records.ts';
import { exchangesBack, tookOf, type ExchangeRecord } from '../core/report/exchange.ts';
import { storedBriefly } from '../core/report/history.ts';
import { valueOfBound } from '../core/report/bound.ts';
import { cutAt } from '../core/value/show.ts';
import type { Maybe } from '../core/value/value.ts';
import { bodyJson, bodyText, wholeValue } from '../runner/record.ts';

/** Events of a long record that are looked at, from its end: what was last is there. */
const MAX_EVENTS = 20_000;
/** Bytes of a body that is read for its members. */
const MAX_BODY = 4 * 1024 * 1024;

/** The last runs of the chains of a project, each read when it is first asked for, and anew when there is a newer one. */
export class LastRuns {
  private readonly known = new Map<string, Readonly<{ id: string; run: LastRun }>>();
  private ids: readonly string[] | undefined;

  constructor(private readonly recordFolder: string) {}

  /** Something was recorded: what is the newest is to be looked up anew. */
  refresh(): void {
    this.ids = undefined;
    this.known.clear();
  }

  /** The last run of a chain file by its path in the project. */
  of(chain: string): LastRun | undefined {
    const known = this.known.get(chain);
    if (known) return known.run;
    this.ids ??= listRuns(this.recordFolder);
    const id = this.ids.find((each) => {
      const [first] = endsOfRun(this.recordFolder, each);
      return first?.type === 'run' && first.chain === chain;
    });
    const record = id === undefined ? undefined : readRun(this.recordFolder, id);
    if (!record) return undefined;
    const run = lastRun(record);
    this.known.set(chain, { id: record.id, run });
    return run;
  }
}

/** What a record says of its run, gathered at the first question. */
function lastRun(record: RecordedRun): LastRun {
  let binds: ReadonlyMap<string, Stored> | undefined;
  let exchanges: readonly ExchangeRecord[] | undefined;
  const responses = new Map<string, LastResponse | undefined>();
  const bound = (name: string) => (binds ??= lastBinds(record)).get(name);
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
        exchanges ??= [...exchangesBack(endOf(record))];
        const isIt = ({ sent: { step, purpose } }: ExchangeRecord) =>
          purpose === 'call' && isNamed(step, call) && !isUndo(step);
        responses.set(
          call,
          responseOf(
            exchanges.find((each) => isIt(each) && each.answered),
            record,
          ),
        );
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

function lastBinds(record: RecordedRun): ReadonlyMap<string, Stored> {
  const found = new Map<string, Stored>();
  for (const event of endOf(record).backwards()) {
    if (event.type !== 'ended') continue;
    for (const { name, value } of event.binds ?? []) if (!found.has(name)) found.set(name, value);
  }
  const [first] = record.journal;
  for (const [name, value] of Object.entries(first?.type === 'run' ? first.inputs : {})) found.set(name, value);
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
