import { nameOfStep, type Step } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import type { EventBody, EventOf, Json, ProblemRecord } from '../../journal/events.ts';
import type { RunContext } from '../context.ts';
import { plainOutcome, type StepOutcome } from './definition.ts';

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

/** Starts the clock of a step; what it gives writes the step's end. */
export function ended(step: Step, address: string, context: RunContext): (ending: Ending) => StepOutcome {
  const started = context.clock.monotonicMs();
  return ({ quiet = false, before = [], expects = [], binds = [], problem, problems = [], outcome: said, ...rest }) => {
    const outcome: EventOf<'ended'>['outcome'] = said ?? (problem ? 'failed' : 'passed');
    const others = problems.filter((each) => each !== problem);
    const { drew } = context.host;
    if (outcome === 'failed' && !quiet) {
      const { code = 'expectation-false', message = '' } = problem ?? {};
      const status = before.find((event) => event.type === 'answered')?.status ?? null;
      context.failed.push({
        address,
        step: nameOfStep(step),
        item: itemOf(context),
        code,
        reason: message,
        status,
        place: placeText(problem),
      });
    }
    context.recorder.record(...before, {
      type: 'ended',
      step: address,
      key: context.keyPrefix + stepKey(context.chain, step),
      kind: step.kind,
      ...(step.kind === 'call' ? { name: step.name } : {}),
      outcome,
      ...(context.item && outcome === 'failed' ? { item: { ...context.item } } : {}),
      ms: Math.round((context.clock.monotonicMs() - started) * 10) / 10,
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

/** How an item is told of: by what it is known by, else by its number. */
function itemOf({ item }: RunContext): Json {
  return item ? (item.label ?? item.number) : null;
}

function placeText(problem: ProblemRecord | undefined): string {
  const { file = '', line = 0 } = problem?.source ?? {};
  return `${file}:${line}`;
}
