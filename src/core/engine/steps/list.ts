import { assertNever } from '../../diagnostics/problem.ts';
import type { Step } from '../../chain/model.ts';
import type { RunContext } from '../context.ts';
import { runCall } from './call.ts';
import { runLet } from './let.ts';
import { runSay } from './say.ts';
import type { StepOutcome } from './definition.ts';

/** Runs a step by its kind; a new kind is a file here and a case below. */
export function runStep(step: Step, address: string, context: RunContext): Promise<StepOutcome> {
  switch (step.kind) {
    case 'call':
      return runCall(step, address, context);
    case 'let':
      return runLet(step, address, context);
    case 'say':
      return runSay(step, address, context);
    case 'broken':
      throw new Error('A chain with a broken step is never run');
    default:
      return assertNever(step);
  }
}
