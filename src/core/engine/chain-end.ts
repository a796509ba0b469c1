import { isDone } from '../journal/call-end.ts';
import type { Address } from '../journal/address.ts';
import { allSteps } from '../chain/steps/inside.ts';
import { requestText } from './call/fingerprint.ts';
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
  let outcome = await run.runSteps(chain.steps, inside, context);
  if (outcome.exit === 130 || (before && pausesBeforeEnd(context, outcome))) return outcome;
  // What was not reached is not done any more; what was done is taken back and cleaned up.
  if (context.cleanupOnly) outcome = { ...outcome, exit: moreSevereExit(outcome.exit, outcome.reached ? 1 : 0) };
  else if (outcome.reached) return outcome;
  if (before && run.undos.length > 0) outcome = together(outcome, await before(context));
  if (chain.cleanup.length === 0 || (before && isCleanedUp(context, outcome))) return outcome;
  return together(outcome, await runCleanup(atEnd(context, outcome), inside));
}

/** Whether the run stays as it is, to be gone on with: at the goal that was said, and while it is watched. */
function pausesBeforeEnd({ run, chain }: StepFrame, { reached }: StepsOutcome): boolean {
  const { goal, watched } = run.settings;
  if (goal && (reached || goal.isAlone)) {
    run.pausing.begin({ why: goal.isAlone ? 'only' : 'to', detail: goal.call });
    return true;
  }
  const isToCleanUp = run.undos.length > 0 || chain.cleanup.length > 0;
  if (watched && isToCleanUp) run.pausing.begin({ why: 'watch' });
  return watched === true && isToCleanUp;
}

/** Whether a run that goes on did nothing since its cleanup was done whole, and ended as it did then. */
function isCleanedUp(
  { recorded, cleanupOnly, chain, keyPrefix, run, endpointOf, runHost }: StepFrame,
  { exit }: StepsOutcome,
) {
  if (!recorded?.isSameRun || cleanupOnly || recorded.ended !== (exit === 0 ? 'passed' : 'failed')) return false;
  const { records } = recorded;
  if (run.counters.exchanges > records.last) return false;
  return allSteps(chain.cleanup).every((step) => {
    if (step.kind !== 'call') return step.kind === 'say';
    const ended = records.call(keyPrefix + step.name)?.ended;
    return (
      ended !== undefined && isDone(ended) && ended.requestText === requestText(step, endpointOf(chain, step), runHost)
    );
  });
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
