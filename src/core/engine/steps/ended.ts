import { nameOfStep, type Step } from '../../chain/model.ts';
import type { EventBody, EventOf, ProblemRecord } from '../../journal/events.ts';
import type { RunContext } from '../context.ts';
import { plainOutcome, type StepOutcome } from './definition.ts';

type EndedBody = Extract<EventBody, { type: 'ended' }>;

/** What is said of the end of a step beside how long it took; without an outcome a problem makes it failed. */
export type Ending = Partial<Pick<EndedBody, 'outcome' | 'why' | 'x' | 'expects' | 'binds'>> &
  Readonly<{
    /** Events that come just before it, in one go with it. */
    before?: readonly EventBody[];
    problem?: ProblemRecord;
    problems?: readonly ProblemRecord[];
  }>;

/** Starts the clock of a step; what it gives writes the step's end. */
export function ended(step: Step, address: string, context: RunContext): (ending: Ending) => StepOutcome {
  const started = context.clock.monotonicMs();
  return ({ before = [], expects = [], binds = [], problem, problems = [], outcome: said, ...rest }) => {
    const outcome: EventOf<'ended'>['outcome'] = said ?? (problem ? 'failed' : 'held');
    const others = problems.filter((each) => each !== problem);
    const { drew } = context.host;
    if (outcome === 'failed') {
      const { code = 'not-held', message = '' } = problem ?? {};
      const status = before.find((event) => event.type === 'answered')?.status ?? null;
      context.failed.push({ address, step: nameOfStep(step), item: null, code, reason: message, status });
    }
    context.recorder.record(...before, {
      type: 'ended',
      step: address,
      key: nameOfStep(step),
      kind: step.kind,
      ...(step.kind === 'call' ? { name: step.name } : {}),
      outcome,
      ms: Math.round((context.clock.monotonicMs() - started) * 10) / 10,
      ...rest,
      ...(expects.length > 0 ? { expects } : {}),
      ...(binds.length > 0 ? { binds } : {}),
      ...(drew.length > 0 ? { drew } : {}),
      ...(problem ? { problem } : {}),
      ...(others.length > 0 ? { problems: others } : {}),
    });
    return plainOutcome(outcome);
  };
}
