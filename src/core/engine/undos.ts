import type { RunContext } from './context.ts';
import type { StepsOutcome } from './steps/definition.ts';
import { runStep } from './steps/list.ts';

/**
 * Takes back what the run made, newest first, each once, although others failed. A call that could not be taken back makes
 * the run failed: what it made is still there.
 */
export async function runUndos({ undos, recorder }: RunContext): Promise<StepsOutcome> {
  const total = { exit: 0, calls: 0, expects: 0, passed: 0 };
  for (const [i, { n, step, address: made, context }] of [...undos].reverse().entries()) {
    const address = `u${i + 1}/${step.name}`;
    const outcome = await runStep(step, address, {
      ...context,
      // It is a request of its own, and not the call again.
      keyPrefix: `undo:${context.keyPrefix}`,
      purpose: 'undo',
      isTidying: false,
      isHalted: () => false,
    });
    total.calls += outcome.calls;
    total.expects += outcome.expects;
    total.passed += outcome.passed;
    const key = context.keyPrefix + step.name;
    recorder.record({ type: 'undone', n, step: made, key, outcome: outcome.exit === 0 ? 'passed' : 'failed' });
    if (outcome.exit === 0) continue;
    total.exit = 1;
    const message = `What ${step.name} created still exists: ${step.request.line!.source.text} did not undo it`;
    recorder.record({ type: 'note', code: 'undo-failed', level: 'warning', message, step: address });
  }
  undos.length = 0;
  return total;
}
