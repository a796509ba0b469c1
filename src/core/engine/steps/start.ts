import type { ItemRecord, ProblemRecord } from '../../journal/records.ts';
import { stepName } from '../../journal/address.ts';
import type { Step } from '../../chain/model.ts';
import type { EventBody, EventOf, Json } from '../../journal/events.ts';
import type { ItemRef, StepFrame } from '../frame.ts';
import { plainOutcome, type StepOutcome } from '../outcome.ts';
import { noteEvents } from '../step-notes.ts';

type EndedBody = Extract<EventBody, { type: 'ended' }>;

/** What is said of the end of a step beside how long it took; without an outcome a problem makes it failed. */
export type Ending = Partial<
  Pick<
    EndedBody,
    | 'outcome'
    | 'why'
    | 'x'
    | 'expects'
    | 'binds'
    | 'counts'
    | 'groups'
    | 'tries'
    | 'waitedMs'
    | 'from'
    | 'requestFingerprint'
    | 'assertionFingerprint'
  >
> &
  Readonly<{
    /** A failure that others have told of already. */
    quiet?: boolean;
    /** Events that come just before it, in one go with it. */
    before?: readonly EventBody[];
    problem?: ProblemRecord;
    problems?: readonly ProblemRecord[];
  }>;

/** Writes the end of a step, and gives its outcome. */
export type EndStep = (ending: Ending) => StepOutcome;

/** Starts the clock of a step; what it gives writes the step's end. */
export function startStep(step: Step, context: StepFrame): EndStep {
  const { run } = context;
  const started = run.clock.monotonicMs();
  return (ending) => {
    const outcome = ending.outcome ?? (ending.problem ? 'failed' : 'passed');
    if (outcome === 'failed' && !ending.quiet) tellFailure(ending, context);
    const notes = noteEvents(step, context);
    run.counters.notes += notes.length;
    const ms = Math.round((run.clock.monotonicMs() - started) * 10) / 10;
    run.recorder.recordSoon(...(ending.before ?? []), ...notes, endedBody(step, context, ending, outcome, ms));
    return plainOutcome(outcome === 'reused' || outcome === 'fresh' ? 'passed' : outcome);
  };
}

type Outcome = EventOf<'ended'>['outcome'];

/** What the end of the chain knows of the failure. */
function tellFailure({ problem, before = [] }: Ending, context: StepFrame): void {
  const { address } = context;
  const { code = 'expectation-false', message = '' } = problem ?? {};
  const status = before.find((event) => event.type === 'answered')?.status ?? null;
  const place = placeText(problem);
  const item = itemOf(context);
  context.failed.push({ address, step: stepName(address), item, code, reason: message, status, place });
}

/** The event, in which only what there is to say has a member. */
function endedBody(
  { kind }: Step,
  { address, key, host, item }: StepFrame,
  { quiet: _quiet, before: _before, expects, binds, problem, problems, outcome: _outcome, ...rest }: Ending,
  outcome: Outcome,
  ms: number,
): EndedBody {
  return {
    type: 'ended',
    step: address,
    key,
    kind,
    ...(kind === 'call' ? { name: stepName(address) } : {}),
    outcome,
    ...(item && (outcome === 'failed' || isToldHere(item)) ? { item: itemRecord(item) } : {}),
    ms,
    ...rest,
    ...lists({ expects, binds, drew: host.drew, problems: problems?.filter((each) => each !== problem) }),
    ...(problem ? { problem } : {}),
  };
}

/** The lists that are not empty. */
function lists<T extends Readonly<Record<string, readonly unknown[] | undefined>>>(given: T): Partial<Filled<T>> {
  const filled: Record<string, unknown> = {};
  for (const name in given) if (given[name]?.length) filled[name] = given[name];
  return filled as Partial<Filled<T>>;
}

type Filled<T> = { [K in keyof T]: NonNullable<T[K]> };

/** Whether nothing else says what the item is called. */
function isToldHere({ label, isTold = false }: ItemRef): boolean {
  return label !== undefined && !isTold;
}

export function itemRecord({ number, id, label }: ItemRef): ItemRecord {
  return { number, id, ...(label === undefined ? {} : { label }) };
}

/** How an item is told of: by what it is known by, else by its number. */
function itemOf({ item }: StepFrame): Json {
  return item ? (item.label ?? item.number) : null;
}

function placeText(problem: ProblemRecord | undefined): string {
  const { file = '', line = 0 } = problem?.source ?? {};
  return `${file}:${line}`;
}
