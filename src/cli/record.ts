import { listRuns, readRun, type RecordedRun } from '../adapters/journal-reader.ts';
import { exchangesOf } from '../core/report/exchange.ts';
import { nearest } from '../core/diagnostics/suggest.ts';
import type { JournalEvent } from '../core/journal/events.ts';
import { UsageFault } from './usage-fault.ts';
import type { Workspace } from './workspace.ts';

/**
 * The record to read: without an id the newest one, of a run or of `send`; `last` is the newest run, `last-good` the
 * newest that passed.
 */
export function openRecord({ recordFolder }: Workspace, wanted: string | undefined): RecordedRun {
  const ids = listRuns(recordFolder);
  if (ids.length === 0) {
    throw new UsageFault(
      'run-not-found',
      'Nothing is recorded here yet',
      'Run a chain with batharon run, or try a request with batharon send.',
    );
  }
  if (wanted === undefined) return openOne(recordFolder, ids[0]!);
  if (wanted === 'last' || wanted === 'last-good') {
    for (const id of ids) {
      const record = openOne(recordFolder, id);
      if (isRun(record.events) && (wanted === 'last' || passed(record.events))) return record;
    }
    throw new UsageFault(
      'run-not-found',
      wanted === 'last' ? 'No run is recorded here yet' : 'No run that passed is recorded here',
    );
  }
  if (ids.includes(wanted)) return openOne(recordFolder, wanted);
  const near = nearest(wanted, ids);
  throw new UsageFault(
    'run-not-found',
    `No run "${wanted}" is recorded here`,
    near ? `Did you mean ${near}?` : `The newest is ${ids[0]}.`,
  );
}

function openOne(recordFolder: string, id: string): RecordedRun {
  const record = readRun(recordFolder, id);
  if (!record) throw new UsageFault('run-not-found', `The record ${id} cannot be read`);
  return record;
}

function isRun(events: readonly JournalEvent[]): boolean {
  const [first] = events;
  return first?.type === 'run' && first.chain !== '';
}

function passed(events: readonly JournalEvent[]): boolean {
  return events.some((event) => event.type === 'finished' && event.outcome === 'passed');
}

/** The last response body of a record that there is, or that of a named call. */
export function bodyOf(record: RecordedRun, call: string | undefined): Uint8Array | undefined {
  const exchange = exchangesOf(record.events).findLast(
    ({ sent, answered }) =>
      answered?.body !== undefined && (call === undefined || sent.step.endsWith(`/${call}`) || sent.step === call),
  );
  return exchange?.answered?.body && record.body(exchange.answered.body);
}
