import type { Address } from '../journal/address.ts';
import { runCleanup } from './cleanup.ts';
import { moreSevereExit } from './exit.ts';
import type { StepFrame } from './frame.ts';
import { added, type StepsOutcome } from './outcome.ts';

/**
 * Runs a chain to its end: its steps, then what `before` does, then its cleanup, however they went. One that was interrupted
 * has not ended.
 */
export async function runToEnd(
  context: StepFrame,
  inside: Address,
  before?: (context: StepFrame) => Promise<StepsOutcome>,
): Promise<StepsOutcome> {
  const { run, chain } = context;
  const { goal, watched } = run.settings;
  let outcome = await run.runSteps(chain.steps, inside, context);
  if (outcome.exit === 130) return outcome;
  if (goal && before && (outcome.reached || goal.isAlone)) {
    run.pausing.begin({ why: goal.isAlone ? 'only' : 'to', detail: goal.call });
    return outcome;
  }
  if (watched && before && (run.undos.length > 0 || chain.cleanup.length > 0)) {
    run.pausing.begin({ why: 'watch' });
    return outcome;
  }
  // What was not reached is not done any more; what was done is taken back and cleaned up.
  if (context.cleanupOnly) outcome = { ...outcome, exit: moreSevereExit(outcome.exit, outcome.reached ? 1 : 0) };
  else if (outcome.reached) return outcome;
  if (before && run.undos.length > 0) outcome = together(outcome, await before(context));
  return chain.cleanup.length === 0 ? outcome : together(outcome, await runCleanup(atEnd(context, outcome), inside));
}

function together(first: StepsOutcome, second: StepsOutcome): StepsOutcome {
  return { ...first, ...added(first, second) };
}

/** What cleans up is done again each time; in a rehearsal it is rehearsed too. */
function atEnd(context: StepFrame, { exit }: StepsOutcome): StepFrame {
  const recorded = context.recorded?.mode === 'rehearse' ? context.recorded : undefined;
  const ending = exit === 0 ? ('passed' as const) : ('failed' as const);
  return { ...context, cleanupOnly: false, ending, recorded, isHalted: () => false };
}
