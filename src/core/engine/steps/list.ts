import { addressOf, nameOfStep, type Step } from '../../chain/model.ts';
import { assertNever } from '../../diagnostics/problem.ts';
import { decide } from '../condition.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { StepHost } from '../host.ts';
import { runCall } from './call.ts';
import { plainOutcome, type StepOutcome, type StepsOutcome } from './definition.ts';
import { ended } from './ended.ts';
import { runIf } from './if.ts';
import { runLet } from './let.ts';
import { runSay } from './say.ts';
import { runStop } from './stop.ts';
import { runWait } from './wait.ts';

/** Runs a step by its kind; a new kind is a file here and a case below. */
function runByKind(step: Step, address: string, context: RunContext): Promise<StepOutcome> {
  switch (step.kind) {
    case 'call':
      return runCall(step, address, context);
    case 'let':
      return runLet(step, address, context);
    case 'say':
      return runSay(step, address, context);
    case 'if':
      return runIf(step, address, context);
    case 'wait':
      return runWait(step, address, context);
    case 'stop':
      return runStop(step, address, context);
    case 'broken':
      throw new Error('A chain with a broken step is never run');
    default:
      return assertNever(step);
  }
}

/** Runs a step if its `when` holds. It draws from the seed by its own key. */
async function runStep(step: Step, address: string, outer: RunContext): Promise<StepOutcome> {
  const key = nameOfStep(step);
  // Calls are known by their names; the others by their place among the steps.
  const context: RunContext = { ...outer, host: new StepHost(outer.runHost, step.kind === 'call' ? key : address) };
  if (step.when) {
    const decided = decide(step.when, plainFrame(context));
    const end = ended(step, address, context);
    if ('problem' in decided) return end({ problem: decided.problem });
    if (!decided.holds) {
      end({ outcome: 'skipped', why: `when ${step.when.source.text.trim()} is false` });
      return plainOutcome('skipped');
    }
  }
  return runByKind(step, address, context);
}

/** Runs steps in order, up to the first that fails or ends the chain. `inside` begins their addresses. */
export async function runSteps(steps: readonly Step[], inside: string, context: RunContext): Promise<StepsOutcome> {
  const total = { exit: 0, calls: 0, expects: 0, held: 0 };
  for (const [i, step] of steps.entries()) {
    const address = addressOf(inside, i, step);
    if (context.stopping.aborted) {
      context.recorder.record({ type: 'paused', why: 'interrupt', step: address });
      return { ...total, exit: 130, stops: true };
    }
    const { exit, calls, expects, held, stops, outcome } = await runStep(step, address, context);
    total.calls += calls;
    total.expects += expects;
    total.held += held;
    if (exit !== 0) total.exit = exit;
    // A branch has gone on or stopped inside already.
    const goesOn = step.kind === 'if' || (exit === 1 && step.kind === 'call' && step.onFailure === 'continue');
    if (stops || ((outcome === 'failed' || outcome === 'cut') && !goesOn)) return { ...total, stops: true };
  }
  return total;
}
