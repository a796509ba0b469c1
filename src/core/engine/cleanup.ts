import { addressOf, type Step } from '../chain/model.ts';
import { placeholdersOfPart, requestTexts } from '../chain/parts.ts';
import { namesRead } from '../expression/names-read.ts';
import type { RunContext } from './context.ts';
import { StepHost } from './host.ts';
import type { StepsOutcome } from './steps/definition.ts';
import { ended } from './steps/ended.ts';
import { runStep } from './steps/list.ts';
import { worse } from './worse.ts';

/**
 * Runs the steps of a cleanup one after another, each although others failed. A call whose request reads a name that was
 * never bound has nothing to tidy up, and is skipped.
 */
export async function runCleanup(context: RunContext, inside: string): Promise<StepsOutcome> {
  const total = { exit: 0, calls: 0, expects: 0, passed: 0 };
  for (const [i, step] of context.chain.cleanup.entries()) {
    const address = addressOf(`${inside}c`, i, step);
    const missing = missingName(step, context);
    if (missing !== undefined) {
      const host = new StepHost(context.runHost, address);
      ended(step, address, { ...context, host })({ outcome: 'skipped', why: `${missing} was never kept` });
      continue;
    }
    const { exit, calls, expects, passed } = await runStep(step, address, context);
    total.exit = worse(total.exit, exit);
    total.calls += calls;
    total.expects += expects;
    total.passed += passed;
  }
  return total;
}

function missingName(step: Step, { scope, chain }: RunContext): string | undefined {
  if (step.kind !== 'call') return undefined;
  const inputs = new Set(chain.inputs.map(({ name }) => name));
  const known = new Set(['secret', 'setting', 'run', ...inputs]);
  return requestTexts(step.request)
    .flatMap(({ part }) => placeholdersOfPart(part))
    .flatMap(({ node }) => namesRead(node))
    .find((name) => !known.has(name) && scope.get(name) === undefined);
}
