import { type Totals } from './outcome.ts';
import { nameOfStep } from '../chain/step-address.ts';
import { type Step } from '../chain/model.ts';
import { stepKey } from '../chain/step-key.ts';
import { placeholdersOfPart, requestTexts } from '../chain/parts.ts';
import { namesRead } from '../expression/names-read.ts';
import { insideCleanup, stepAddress, type Address } from '../journal/address.ts';
import type { StepFrame } from './frame.ts';
import { StepHost } from './host.ts';
import { added, NO_TOTALS, type StepsOutcome } from './outcome.ts';
import { startStep } from './steps/start.ts';

/**
 * Runs the steps of a cleanup one after another, each although others failed. A call whose request reads a name that was
 * never bound has nothing to clean up, and is skipped.
 */
export async function runCleanup(context: StepFrame, inside: Address): Promise<StepsOutcome> {
  let total: Totals = NO_TOTALS;
  for (const [i, step] of context.chain.cleanup.entries()) {
    const address = stepAddress(insideCleanup(inside), i, nameOfStep(step));
    const missing = missingName(step, context);
    if (missing === undefined) {
      total = added(total, await context.run.runStep(step, address, context));
      continue;
    }
    const host = new StepHost(context.runHost, address);
    const key = context.keyPrefix + stepKey(context.chain, step);
    startStep(step, { ...context, address, key, host })({ outcome: 'skipped', why: `${missing} was never kept` });
  }
  return total;
}

function missingName(step: Step, { scope, chain }: StepFrame): string | undefined {
  if (step.kind !== 'call') return undefined;
  const inputs = new Set(chain.inputs.map(({ name }) => name));
  const known = new Set(['secret', 'setting', 'run', ...inputs]);
  return requestTexts(step.request)
    .flatMap(({ part }) => placeholdersOfPart(part))
    .flatMap(({ node }) => namesRead(node))
    .find((name) => !known.has(name) && scope.get(name) === undefined);
}
