import type { BodyPlaces, ExpectRecord, PlaceRef, ProblemRecord, Reply } from '../journal/records.ts';
import type { EventOf } from '../journal/events.ts';
import { counted } from '../value/show.ts';
import { storedShown, type History } from './history.ts';
import { itemsOf, stepName } from '../journal/address.ts';

/** A row of a failure: what it speaks of, and what there is to say. */
export type FailureRow = Readonly<{ label: string; text: string }>;

/** A failed step, told in parts, so that terminal and reports can each show it in their way. */
export type Failure = Readonly<{
  step: string;
  /** The item of a loop that it failed for: `item 5 of due ('KM 204/5')`. */
  item: string | undefined;
  /** The numbers of the items that it was in, as --item takes them: `5.2`. */
  items: string;
  /** Whether there is an exchange to look at. */
  hasExchange: boolean;
  place: PlaceRef | undefined;
  sections: readonly FailureSection[];
  /** How each of several attempts ended: `3 attempts: 503, timeout, 503`. */
  tries: string | undefined;
  /** What the server answered. */
  reply: Reply | undefined;
}>;

export type FailureSection =
  | Readonly<{
      kind: 'rows';
      heading: string;
      verdict: string;
      /** The reason that the file gives. */
      because: string | undefined;
      why: string | undefined;
      rows: readonly FailureRow[];
      /** Where the body is not as expected. */
      places: BodyPlaces | undefined;
      advice: string | undefined;
    }>
  | Readonly<{ kind: 'problem'; problem: ProblemRecord; rows: readonly FailureRow[] }>;

/** How a reply is introduced. */
export const REPLY_LABELS: Readonly<Record<Reply['part'], string>> = {
  message: 'server message',
  body: 'response body',
};

/** Why a step failed, from its `ended` event and what was bound before it. */
export function explainFailure(ended: EventOf<'ended'>, history: History): Failure {
  const failed = (ended.expects ?? []).filter(({ passed }) => !passed);
  const expectations = failed.map((record) => expectationSection(record, history));
  const told = [ended.problem, ...(ended.problems ?? [])].filter((each) => each !== undefined);
  // Expectations say for themselves why they failed, but not that it was all for a credential that was refused.
  const problems = failed.length === 0 ? told : told.filter(({ code }) => code === 'not-authorized');
  const place = failed.find(({ source }) => source)?.source ?? ended.problem?.source;
  return {
    step: stepName(ended.step),
    items: itemsOf(ended.step),
    item: ended.item && history.itemWords(ended.step, ended.item),
    hasExchange: (ended.x ?? []).length > 0 || (ended.kind === 'receive' && expectations.length > 0),
    place,
    sections: [
      ...problems.map((problem): FailureSection => ({
        kind: 'problem',
        problem,
        rows: seenRows(problem.seen ?? [], history),
      })),
      ...expectations,
    ],
    tries: ended.tried && `${counted(ended.tried.length, 'attempt')}: ${ended.tried.join(', ')}`,
    reply: ended.problem?.reply,
  };
}

function expectationSection(record: ExpectRecord, history: History): FailureSection {
  // What found nothing is told by the message, with how far the path got.
  const told = (record.seen ?? []).filter(({ value }) => !(record.foundNothing && 'nothing' in value));
  const rows = seenRows(told, history);
  return {
    kind: 'rows',
    heading: record.text,
    verdict: verdictOf(record),
    because: record.because,
    why: record.message,
    rows: [...rows, ...offenderRows(record)],
    places: record.places,
    advice: record.advice,
  };
}

/** What was read, each with where it came from, and what it was in the looks before. */
function seenRows(seen: NonNullable<ProblemRecord['seen']>, history: History): readonly FailureRow[] {
  return seen.map(({ text, value, reads, before }): FailureRow => {
    const origins = (reads ?? []).flatMap((read) => history.trail(read));
    const shown = before === undefined ? storedShown(value) : `${storedShown(value)} after ${before}`;
    return { label: text, text: [shown, ...origins].join(', ') };
  });
}

function verdictOf({ code }: ExpectRecord): string {
  switch (code) {
    case 'expectation-false':
    case 'unexpected-status':
      return 'is false';
    case 'found-nothing':
      return 'found nothing';
    case 'contract-mismatch':
      return 'is not kept';
    default:
      return 'cannot be evaluated';
  }
}

/** A row for how many items broke an `all(...)`, and one for each of the first few. */
function offenderRows({ offenders }: ExpectRecord): readonly FailureRow[] {
  if (!offenders) return [];
  const { count, of, first } = offenders;
  const rows = first.map(({ place, seen }): FailureRow => {
    const values = seen.map(({ text, value }) => `${text} is ${storedShown(value)}`);
    return { label: place, text: values.join(', ') };
  });
  const rest = count - first.length;
  const more: FailureRow[] = rest > 0 ? [{ label: '', text: `and ${counted(rest, 'more item')}` }] : [];
  return [{ label: 'false for', text: `${count} of ${counted(of, 'item')}` }, ...rows, ...more];
}
