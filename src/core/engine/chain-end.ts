import { runCleanup } from './cleanup.ts';
import type { RunContext } from './context.ts';
import type { StepsOutcome } from './steps/definition.ts';
import { runSteps } from './steps/list.ts';
import { worse } from './worse.ts';

/**
 * Runs a chain to its end: its steps, then what `before` does, then its cleanup, however they went. One that was interrupted
 * has not ended.
 */
export async function runToEnd(
  context: RunContext,
  inside: string,
  before?: (context: RunContext) => Promise<StepsOutcome>,
): Promise<StepsOutcome> {
  let outcome = await runSteps(context.chain.steps, inside, context);
  if (outcome.exit === 130) return outcome;
  const { goal } = context;
  if (goal && before && (outcome.reached || goal.isAlone)) {
    context.pausing.begin({ why: goal.isAlone ? 'only' : 'to', detail: goal.call });
    return outcome;
  }
  if (context.isWatched && before && (context.undos.length > 0 || context.chain.cleanup.length > 0)) {
    context.pausing.begin({ why: 'watch' });
    return outcome;
  }
  // What was not reached is not done any more; what was done is taken back and tidied up.
  if (context.isTidying) outcome = { ...outcome, exit: worse(outcome.exit, outcome.reached ? 1 : 0) };
  else if (outcome.reached) return outcome;
  if (before && context.undos.length > 0) outcome = together(outcome, await before(context));
  if (context.chain.cleanup.length === 0) return outcome;
  const ending = outcome.exit === 0 ? ('passed' as const) : ('failed' as const);
  return together(
    outcome,
    await runCleanup({ ...context, isTidying: false, ending, kept: keptAtEnd(context), isHalted: () => false }, inside),
  );
}

function together(first: StepsOutcome, second: StepsOutcome): StepsOutcome {
  return {
    ...first,
    exit: worse(first.exit, second.exit),
    calls: first.calls + second.calls,
    expects: first.expects + second.expects,
    passed: first.passed + second.passed,
  };
}

/** What tidies up is done again each time; in a rehearsal it is rehearsed too. */
function keptAtEnd({ kept }: RunContext): RunContext['kept'] {
  return kept?.mode === 'rehearse' ? kept : undefined;
}
