import { addressOf, type Step } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import { assertNever } from '../../diagnostics/problem.ts';
import { decide } from '../condition.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { StepHost } from '../host.ts';
import { worse } from '../worse.ts';
import { runCall } from './call.ts';
import { plainOutcome, type StepOutcome, type StepsOutcome } from './definition.ts';
import { ended } from './ended.ts';
import { runChainStep } from './chain.ts';
import { runEach } from './each.ts';
import { runIf } from './if.ts';
import { runLet } from './let.ts';
import { runListen } from './listen.ts';
import { runReceive } from './receive.ts';
import { runRemember } from './remember.ts';
import { runRepeat } from './repeat.ts';
import { runSay } from './say.ts';
import { runStop } from './stop.ts';
import { runParallel } from './parallel.ts';
import { runWrite } from './write.ts';
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
    case 'each':
      return runEach(step, address, context);
    case 'parallel':
      return runParallel(step, address, context);
    case 'repeat':
      return runRepeat(step, address, context);
    case 'chain':
      return runChainStep(step, address, context);
    case 'listen':
      return runListen(step, address, context);
    case 'receive':
      return runReceive(step, address, context);
    case 'remember':
      return runRemember(step, address, context);
    case 'write':
      return runWrite(step, address, context);
    case 'broken':
      throw new Error('A chain with a broken step is never run');
    default:
      return assertNever(step);
  }
}

/** Runs a step if its `when` holds. It draws from the seed by its own key. */
export function runStep(step: Step, address: string, outer: RunContext): Promise<StepOutcome> {
  const key = outer.keyPrefix + stepKey(outer.chain, step);
  const context: RunContext = { ...outer, host: new StepHost(outer.runHost, key) };
  if (step.when) {
    const decided = decide(step.when, plainFrame(context));
    const end = ended(step, address, context);
    if ('problem' in decided) return Promise.resolve(end({ problem: decided.problem }));
    if (!decided.holds) {
      end({ outcome: 'skipped', why: `when ${step.when.source.text.trim()} is false` });
      return Promise.resolve(plainOutcome('skipped'));
    }
  }
  return runByKind(step, address, context);
}

/** Runs steps in order, up to the first that fails or ends the chain. `inside` begins their addresses. */
export async function runSteps(steps: readonly Step[], inside: string, context: RunContext): Promise<StepsOutcome> {
  const total = { exit: 0, calls: 0, expects: 0, passed: 0 };
  for (const [i, step] of steps.entries()) {
    const address = addressOf(inside, i, step);
    if (context.stopping.aborted) {
      return { ...total, exit: 130, stops: true };
    }
    if (context.isHalted()) return { ...total, stops: true, halted: true };
    const ran = await runStep(step, address, context);
    const { exit, calls, expects, passed, stops, outcome, goesOn, halted } = ran;
    total.calls += calls;
    total.expects += expects;
    total.passed += passed;
    total.exit = worse(total.exit, exit);
    const isGoal = step.kind === 'call' && step.name === context.goal?.call && exit === 0;
    if (isGoal || ran.reached) return { ...total, stops: true, reached: true };
    const ends = stops || ((outcome === 'failed' || outcome === 'cut') && !goesOn);
    if (ends) return { ...total, stops: true, ...(halted ? { halted } : {}) };
  }
  return total;
}
