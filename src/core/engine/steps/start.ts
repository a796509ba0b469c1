import { stepName } from '../../journal/address.ts';
import type { Step } from '../../chain/model.ts';
import type { EventBody, EventOf, ItemRecord, Json, ProblemRecord } from '../../journal/events.ts';
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
  const { kind } = step;
  const { address, key, run } = context;
  const started = run.clock.monotonicMs();
  return ({ quiet = false, before = [], expects = [], binds = [], problem, problems = [], outcome: said, ...rest }) => {
    const outcome: EventOf<'ended'>['outcome'] = said ?? (problem ? 'failed' : 'passed');
    const others = problems.filter((each) => each !== problem);
    const { drew } = context.host;
    if (outcome === 'failed' && !quiet) {
      const { code = 'expectation-false', message = '' } = problem ?? {};
      const status = before.find((event) => event.type === 'answered')?.status ?? null;
      const place = placeText(problem);
      const item = itemOf(context);
      context.failed.push({ address, step: stepName(address), item, code, reason: message, status, place });
    }
    const notes = noteEvents(step, context);
    run.counters.notes += notes.length;
    run.recorder.record(...before, ...notes, {
      type: 'ended',
      step: address,
      key,
      kind,
      ...(kind === 'call' ? { name: stepName(address) } : {}),
      outcome,
      ...(context.item && (outcome === 'failed' || isToldHere(context.item)) ? { item: itemRecord(context.item) } : {}),
      ms: Math.round((run.clock.monotonicMs() - started) * 10) / 10,
      ...rest,
      ...(expects.length > 0 ? { expects } : {}),
      ...(binds.length > 0 ? { binds } : {}),
      ...(drew.length > 0 ? { drew } : {}),
      ...(problem ? { problem } : {}),
      ...(others.length > 0 ? { problems: others } : {}),
    });
    return plainOutcome(outcome === 'reused' || outcome === 'fresh' ? 'passed' : outcome);
  };
}

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
