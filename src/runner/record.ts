import type { BodyRef, OperationRef } from '../core/journal/records.ts';
import { endsOfRun, listRuns, readRun, type RecordedRun } from '../adapters/journal-reader.ts';
import { exchangesBack } from '../core/report/exchange.ts';
import { evaluate } from '../core/expression/evaluate.ts';
import { frameOf } from '../core/expression/frame.ts';
import { parseExpression } from '../core/expression/parse.ts';
import type { BoundName } from '../core/report/bound.ts';
import { readJson } from '../core/value/json-read.ts';
import type { Value } from '../core/value/value.ts';
import { nearest } from '../core/diagnostics/suggest.ts';
import type { EventOf, JournalEvent } from '../core/journal/events.ts';
import { LINES_TYPE } from '../core/journal/stored.ts';
import { counted } from '../core/value/show.ts';
import type { Caller } from './caller.ts';
import { CommandError } from './command-error.ts';
import { inProject, type Workspace } from './workspace.ts';

/** The record to read, by the words of `recordId`; without one the default record. */
export function openRecord(workspace: Workspace, wanted: string | undefined, caller?: Caller): RecordedRun {
  const id =
    wanted === undefined && caller ? defaultRecordId(workspace, recordId(workspace, undefined), caller) : wanted;
  return openOne(workspace.recordFolder, recordId(workspace, id));
}

/**
 * The record that a command reads where none is named: the newest, and of runs that ran together the newest that did not
 * pass, which is said.
 */
export function defaultRecordId({ recordFolder }: Workspace, newest: string, caller: Caller): string {
  const batch = batchOf(endsOfRun(recordFolder, newest));
  if (batch === undefined) return newest;
  const together = listRuns(recordFolder).filter((id) => batchOf(endsOfRun(recordFolder, id)) === batch);
  const failed = together.find((id) => !passed(endsOfRun(recordFolder, id).at(-1)));
  if (together.length < 2) return newest;
  const chosen = failed ?? newest;
  const which = failed === undefined ? 'the newest' : 'the newest that failed';
  caller.exit.err(`run ${chosen}: ${which} of ${counted(together.length, 'run')} that ran together\n`);
  return chosen;
}

/** What runs that ran together have in common. */
function batchOf([first]: readonly JournalEvent[]): string | undefined {
  const { batch } = first?.type === 'run' ? (first.options as { batch?: string }) : {};
  return batch;
}

/**
 * The id of a record: without one the newest, of a run or of `send`; `last` is the newest run, `last-good` the newest that
 * passed.
 */
export function recordId({ recordFolder }: Workspace, wanted: string | undefined): string {
  const ids = listRuns(recordFolder);
  if (ids.length === 0) {
    throw new CommandError(
      'run-not-found',
      'Nothing is recorded here yet',
      'Run a chain with batharon run, or send a request with batharon send.',
    );
  }
  if (wanted === undefined) return ids[0]!;
  if (wanted === 'last' || wanted === 'last-good') {
    const found = ids.find((id) => {
      const ends = endsOfRun(recordFolder, id);
      return isRun(ends) && (wanted === 'last' || passed(ends.at(-1)));
    });
    if (found !== undefined) return found;
    throw new CommandError(
      'run-not-found',
      wanted === 'last' ? 'No run is recorded here yet' : 'No run that passed is recorded here',
    );
  }
  if (ids.includes(wanted)) return wanted;
  const near = nearest(wanted, ids);
  throw new CommandError(
    'run-not-found',
    `No run "${wanted}" is recorded here`,
    near ? `Did you mean ${near}?` : `The newest is ${ids[0]}.`,
  );
}

function openOne(recordFolder: string, id: string): RecordedRun {
  const record = readRun(recordFolder, id);
  if (!record) throw new CommandError('run-not-found', `The record ${id} cannot be read`);
  return record;
}

export function isRun(events: readonly JournalEvent[]): boolean {
  const [first] = events;
  return first?.type === 'run' && first.chain !== '';
}

function passed(last: JournalEvent | undefined): boolean {
  return last?.type === 'finished' && last.outcome === 'passed';
}

/** A response with its body, and the URL that gave it. */
export type RecordedResponse = Readonly<{
  step: string;
  url: string;
  operation: OperationRef | undefined;
  answered: EventOf<'answered'>;
  content: Uint8Array;
}>;

/** The last response with a body that a record holds, or that of a named call. */
export function responseWithBody(record: RecordedRun, call: string | undefined): RecordedResponse {
  for (const { sent, answered } of exchangesBack(record.journal)) {
    if (!answered?.body) continue;
    if (call !== undefined && !sent.step.endsWith(`/${call}`) && sent.step !== call) continue;
    const content = record.body(answered.body);
    if (content) return { step: sent.step, url: sent.request.url, operation: sent.operation, answered, content };
    break;
  }
  const what = call === undefined ? 'response with a body' : `response of "${call}"`;
  const advice = 'To see what it has: batharon look';
  throw new CommandError('call-not-found', `The record ${record.id} has no ${what}`, advice);
}

/** A recorded body as text; `undefined` when there is none. */
export function bodyText(record: Pick<RecordedRun, 'body'>, ref: BodyRef | undefined): string | undefined {
  const content = ref && record.body(ref);
  return content && new TextDecoder().decode(content);
}

/** A recorded body as a JSON value; `undefined` when it is none. */
export function bodyJson(record: Pick<RecordedRun, 'body'>, ref: BodyRef | undefined): Value | undefined {
  const text = bodyText(record, ref);
  if (text === undefined) return undefined;
  return ref?.type === LINES_TYPE ? text.split('\n').flatMap((line) => jsonIn(line) ?? []) : jsonIn(text);
}

function jsonIn(text: string): Value | undefined {
  const json = readJson(text);
  return json.ok ? json.value : undefined;
}

/** Whether a run of a chain is recorded here. */
export function hasRuns({ recordFolder }: Workspace): boolean {
  return listRuns(recordFolder).some((id) => isRun(endsOfRun(recordFolder, id)));
}

/** The value of a name that its record only points to: the expression that gave it, on the recorded body. */
export function wholeValue({ stored }: BoundName, record: RecordedRun): Value | undefined {
  if (!('from' in stored)) return undefined;
  const body = bodyJson(record, answerOf(record, stored.from)?.body);
  const { tree } = parseExpression(stored.expr);
  if (body === undefined || !tree) return undefined;
  return evaluate(
    tree,
    frameOf(body, () => undefined),
  ).value;
}

function answerOf({ journal }: RecordedRun, x: number): EventOf<'answered'> | undefined {
  for (const event of journal) if (event.type === 'answered' && event.x === x) return event;
  return undefined;
}

/** The newest run of one chain file, whose path is as one sees it from where one stands. */
export function newestRunOf(workspace: Workspace, file: string): RecordedRun | undefined {
  return newestOf(workspace, inProject(workspace, file), () => true);
}

/** The newest run of the same chain that passed, beside the one it is compared with. */
export function goodRunBeside(workspace: Workspace, { id, journal }: RecordedRun): RecordedRun {
  const [first] = journal;
  const chain = first?.type === 'run' ? first.chain : '';
  const found = newestOf(workspace, chain, (record) => record.id !== id && passed(record.journal.last()));
  if (found) return found;
  throw new CommandError('run-not-found', 'No other run of this chain that passed is recorded here');
}

function newestOf(
  { recordFolder }: Workspace,
  chain: string,
  fits: (record: RecordedRun) => boolean,
): RecordedRun | undefined {
  for (const id of listRuns(recordFolder)) {
    const [first] = endsOfRun(recordFolder, id);
    if (first?.type !== 'run' || first.chain !== chain) continue;
    const record = readRun(recordFolder, id);
    if (record && fits(record)) return record;
  }
  return undefined;
}
