import { type Totals } from '../outcome.ts';
import { nameOfStep } from '../../chain/step-address.ts';
import { type ParallelStep } from '../../chain/model.ts';
import { insideOfStep, stepAddress } from '../../journal/address.ts';
import { added, NO_TOTALS, outcomeOf, type StepOutcome } from '../outcome.ts';
import { Scope } from '../scope.ts';
import type { StepRunner } from './definition.ts';

/** Runs unlike steps at the same time; when one fails the others in flight end, and no new one begins. */
export const runParallel: StepRunner<ParallelStep> = async ({ steps, concurrency = Infinity }, context, end) => {
  const { address, key, run } = context;
  run.recorder.record({ type: 'opened', step: address, key, kind: 'parallel', total: steps.length });
  let total: Totals = NO_TOTALS;
  let isStopped = false;
  let stops = false;
  let isReached = false;
  let isHalted = false;
  const scopes = steps.map(() => new Scope(context.scope));
  const account = ({ goesOn, ...outcome }: StepOutcome): void => {
    total = added(total, outcome);
    if (outcome.reached) isReached = true;
    if (outcome.halted && !isStopped) isHalted = true;
    if (outcome.stops && outcome.exit === 0) stops = true;
    if (outcome.stops || (outcome.outcome !== 'passed' && outcome.outcome !== 'skipped' && !goesOn)) isStopped = true;
  };
  let next = 0;
  const worker = async (): Promise<void> => {
    while (next < steps.length && !isStopped && !run.stopping.aborted && !context.isHalted()) {
      const index = next++;
      const each = steps[index]!;
      const inner = { ...context, scope: scopes[index]!, isHalted: () => isStopped || context.isHalted() };
      const outcome = await run.runStep(each, stepAddress(insideOfStep(address), index, nameOfStep(each)), inner);
      if (each.kind === 'call' && each.name === run.settings.goal?.call && outcome.exit === 0) isReached = true;
      account(outcome);
    }
  };
  await Promise.all(Array.from({ length: Math.min(concurrency, steps.length) }, worker));
  for (const scope of scopes) scope.handOn(context.scope);
  if (next < steps.length && context.isHalted()) isHalted = true;
  const exit = run.stopping.aborted && next < steps.length ? 130 : total.exit;
  const outcome = outcomeOf({ ...total, exit, ...(isHalted ? { halted: true } : {}) });
  end({ outcome, quiet: true });
  if (isHalted) return { ...total, exit, outcome, halted: true, stops: true };
  if (isReached) return { ...total, exit, outcome, reached: true, stops: true };
  return { ...total, exit, outcome, ...(isStopped || stops || exit === 130 ? { stops: true } : { goesOn: true }) };
};
