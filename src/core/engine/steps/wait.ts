import type { WaitStep } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { aType } from '../../value/show.ts';
import { DateTime, Duration, type Value } from '../../value/value.ts';
import { valueNeeded } from '../condition.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { problemRecord } from '../places.ts';
import { notReached, type StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Pauses; an instant in the past does not wait, and an interruption ends the pause. */
export const runWait: StepRunner<WaitStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const expression = 'for' in step ? step.for : step.to;
  const frame = plainFrame(context);
  const needed = valueNeeded(expression, frame, 'Write x ?? ... with a duration for that case.');
  if ('problem' in needed) return end({ problem: needed.problem });
  // A length of time that has passed once has passed; an instant is asked for again.
  if ('for' in step && hasWaited(step, context)) return end({});
  if (context.isTidying) return notReached;
  const milliseconds = pauseOf(step, needed.value, context.clock.nowMs());
  if (milliseconds === undefined) {
    const { source } = expression;
    const wanted = 'for' in step ? 'a duration such as 2s' : 'a date-time';
    const message = `wait needs ${wanted}, not ${aType(needed.value)}`;
    return end({
      problem: problemRecord(diagnosticIn(source, { code: 'wrong-argument', range: wholeOf(source), message })),
    });
  }
  const wait = context.waits.begin('wait', address, { until: context.clock.nowMs() + milliseconds });
  if (milliseconds > 0) await context.clock.sleep(milliseconds, context.stopping);
  return end({
    before: wait.end(),
    outcome: context.stopping.aborted ? 'cut' : 'passed',
  });
};

/** Whether it has waited before; for one call alone nothing is waited for. */
function hasWaited(step: WaitStep, { kept, keyPrefix, chain }: RunContext): boolean {
  return (
    kept?.mode === 'only' || (kept?.isSameRun === true && kept.records.hasWaited(keyPrefix + stepKey(chain, step)))
  );
}

function pauseOf(step: WaitStep, value: Value, nowMs: number): number | undefined {
  if ('for' in step) return value instanceof Duration ? Math.max(0, value.milliseconds) : undefined;
  return value instanceof DateTime ? Math.max(0, value.epochMilliseconds - nowMs) : undefined;
}
