import { runCleanup } from './cleanup.ts';
import type { RunContext } from './context.ts';
import type { StepsOutcome } from './steps/definition.ts';
import { runSteps, worse } from './steps/list.ts';

/** Runs a chain to its end: its steps, then its cleanup, however they went. One that was interrupted has not ended. */
export async function runToEnd(context: RunContext, inside: string): Promise<StepsOutcome> {
  const outcome = await runSteps(context.chain.steps, inside, context);
  if (outcome.exit === 130 || context.chain.cleanup.length === 0) return outcome;
  const end = {
    ...context,
    ending: outcome.exit === 0 ? ('passed' as const) : ('failed' as const),
    isHalted: () => false,
  };
  const cleanup = await runCleanup(end, inside);
  return {
    ...outcome,
    exit: worse(outcome.exit, cleanup.exit),
    calls: outcome.calls + cleanup.calls,
    expects: outcome.expects + cleanup.expects,
    held: outcome.held + cleanup.held,
  };
}
