import type { WaitStep } from '../../chain/model.ts';
import { aType } from '../../value/show.ts';
import { DateTime, Duration, type Value } from '../../value/value.ts';
import { valueNeeded } from '../condition.ts';
import { plainFrame } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { problemAt } from '../places.ts';
import type { StepRunner } from './definition.ts';
import { notReached } from '../outcome.ts';

/** Pauses; an instant in the past does not wait, and an interruption ends the pause. */
export const runWait: StepRunner<WaitStep> = async (step, context, end) => {
  const { run } = context;
  const expression = 'for' in step ? step.for : step.to;
  const frame = plainFrame(context);
  const needed = valueNeeded(expression, frame, 'Write x ?? ... with a duration for that case.');
  if ('problem' in needed) return end(needed);
  // A length of time that has passed once has passed; an instant is asked for again.
  if ('for' in step && hasWaited(context)) return end({});
  if (context.cleanupOnly) return notReached;
  const milliseconds = pauseOf(step, needed.value, run.clock.nowMs());
  if (milliseconds === undefined) {
    const { source } = expression;
    const wanted = 'for' in step ? 'a duration such as 2s' : 'a date-time';
    const message = `wait needs ${wanted}, not ${aType(needed.value)}`;
    return end({ problem: problemAt(source, 'wrong-argument', message) });
  }
  const wait = run.waits.begin('wait', context.address, { until: run.clock.nowMs() + milliseconds });
  if (milliseconds > 0) await run.clock.sleep(milliseconds, run.stopping);
  return end({ before: wait.end(), outcome: run.stopping.aborted ? 'cut' : 'passed' });
};

/** Whether it has waited before; for one call alone nothing is waited for. */
function hasWaited({ recorded, key }: StepFrame): boolean {
  return recorded?.mode === 'only' || (recorded?.isSameRun === true && recorded.records.steps.hasWaited(key));
}

function pauseOf(step: WaitStep, value: Value, nowMs: number): number | undefined {
  if ('for' in step) return value instanceof Duration ? Math.max(0, value.milliseconds) : undefined;
  return value instanceof DateTime ? Math.max(0, value.epochMilliseconds - nowMs) : undefined;
}
