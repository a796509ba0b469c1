import { type Totals } from './outcome.ts';
import { undoAddress } from '../journal/address.ts';
import type { StepFrame } from './frame.ts';
import { added, NO_TOTALS, type StepsOutcome } from './outcome.ts';

/**
 * Takes back what the run made, newest first, each once, although others failed. A call that could not be taken back makes
 * the run failed: what it made is still there.
 */
export async function runUndos({ run }: StepFrame): Promise<StepsOutcome> {
  const { undos, recorder } = run;
  let total: Totals = NO_TOTALS;
  for (const [i, { n, step, context }] of [...undos].reverse().entries()) {
    const address = undoAddress(i, step.name);
    const outcome = await run.runStep(step, address, {
      ...context,
      // It is a request of its own, and not the call again.
      keyPrefix: `undo:${context.keyPrefix}`,
      purpose: 'undo',
      cleanupOnly: false,
      isHalted: () => false,
    });
    const isUndone = outcome.exit === 0;
    total = added(total, { ...outcome, exit: isUndone ? 0 : 1 });
    recorder.record({
      type: 'undone',
      n,
      step: context.address,
      key: context.key,
      outcome: isUndone ? 'passed' : 'failed',
    });
    if (isUndone) continue;
    const message = `What ${step.name} created still exists: ${step.request.line!.source.text} did not undo it`;
    recorder.record({ type: 'note', code: 'undo-failed', level: 'warning', message, step: address });
  }
  undos.length = 0;
  return total;
}
