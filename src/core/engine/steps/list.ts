import { type Totals } from '../outcome.ts';
import { nameOfStep } from '../../chain/step-address.ts';
import { type Step } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import { assertNever } from '../../diagnostics/problem.ts';
import { stepAddress, type Address } from '../../journal/address.ts';
import { Interrupted } from '../asking.ts';
import { decide } from '../condition.ts';
import { faultOf } from '../fault.ts';
import { catchFillFaultDuring } from '../fill.ts';
import type { StepFrame } from '../frame.ts';
import { plainFrame } from '../frames.ts';
import { StepHost } from '../host.ts';
import { added, NO_TOTALS, type StepOutcome, type StepsOutcome } from '../outcome.ts';
import { runCall } from './call.ts';
import { runChainStep } from './chain.ts';
import { runEach } from './each.ts';
import { runExpect } from './expect.ts';
import { runIf } from './if.ts';
import { runLet } from './let.ts';
import { runListen } from './listen.ts';
import { runParallel } from './parallel.ts';
import { runReceive } from './receive.ts';
import { runRemember } from './remember.ts';
import { runRepeat } from './repeat.ts';
import { runSay } from './say.ts';
import { leftToOther } from '../slices.ts';
import { startStep, type EndStep } from './start.ts';
import { runStop } from './stop.ts';
import { runWait } from './wait.ts';
import { runWrite } from './write.ts';

/** Runs a step by its kind; a new kind is a file here and a case below. */
function runByKind(step: Step, context: StepFrame, end: EndStep): Promise<StepOutcome> {
  switch (step.kind) {
    case 'call':
      return runCall(step, context, end);
    case 'let':
      return runLet(step, context, end);
    case 'say':
      return runSay(step, context, end);
    case 'expect':
      return runExpect(step, context, end);
    case 'if':
      return runIf(step, context, end);
    case 'wait':
      return runWait(step, context, end);
    case 'stop':
      return runStop(step, context, end);
    case 'each':
      return runEach(step, context, end);
    case 'parallel':
      return runParallel(step, context, end);
    case 'repeat':
      return runRepeat(step, context, end);
    case 'chain':
      return runChainStep(step, context, end);
    case 'listen':
      return runListen(step, context, end);
    case 'receive':
      return runReceive(step, context, end);
    case 'remember':
      return runRemember(step, context, end);
    case 'write':
      return runWrite(step, context, end);
    case 'broken':
      throw new Error('A chain with a broken step is never run');
    default:
      return assertNever(step);
  }
}

/**
 * Runs a step if its `when` holds. It draws from the seed by its own key. A placeholder of it that cannot be filled, wherever
 * that shows, is a failure of the step.
 */
export async function runStep(step: Step, address: Address, outer: StepFrame): Promise<StepOutcome> {
  const key = outer.keyPrefix + stepKey(outer.chain, step);
  const context: StepFrame = { ...outer, address, key, host: new StepHost(outer.runHost, key) };
  const end = startStep(step, context);
  if (step.when) {
    const decided = decide(step.when, plainFrame(context));
    if ('problem' in decided) return end(decided);
    if (!decided.holds) return end({ outcome: 'skipped', why: `when ${step.when.source.text.trim()} is false` });
  }
  try {
    const left = await leftToOther(step.once, context);
    if (left !== undefined) return end({ outcome: 'skipped', why: left });
    const ran = await catchFillFaultDuring(() => runByKind(step, context, end));
    return 'value' in ran ? ran.value : end(ran);
  } catch (error) {
    if (error instanceof Interrupted) {
      context.run.pausing.begin({ why: 'interrupt' });
      return { ...end({ outcome: 'cut' }), stops: true };
    }
    // Where the record itself cannot be written this throws anew, and the run stops as it is.
    const { problem, exit } = faultOf(error, step);
    return { ...end({ problem }), exit, stops: true };
  }
}

function calledBy(step: Step): string | null {
  return step.kind === 'call' ? step.name : null;
}

/** Runs steps in order, up to the first that fails or ends the chain. `inside` begins their addresses. */
export async function runSteps(steps: readonly Step[], inside: Address, outer: StepFrame): Promise<StepsOutcome> {
  let total: Totals = NO_TOTALS;
  const { stopping, settings } = outer.run;
  for (const [i, step] of steps.entries()) {
    if (stopping.aborted) return { ...total, exit: 130, stops: true };
    if (outer.isHalted()) return { ...total, stops: true, halted: true };
    const ran = await runStep(step, stepAddress(inside, i, nameOfStep(step)), outer);
    const { exit, stops, outcome, goesOn, halted, reached } = ran;
    total = added(total, ran);
    const isGoal = exit === 0 && settings.goal?.call === calledBy(step);
    if (isGoal || reached) return { ...total, stops: true, reached: true };
    const isHeld = goesOn || (outcome !== 'failed' && outcome !== 'cut');
    if (stops || !isHeld) return { ...total, stops: true, ...(halted ? { halted } : {}) };
  }
  return total;
}
