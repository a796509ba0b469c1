import type { ParallelStep } from '../../chain/model.ts';
import { addressOf } from '../../chain/model.ts';
import { Scope } from '../scope.ts';
import type { StepOutcome, StepRunner } from './definition.ts';
import { ended } from './ended.ts';
import { worse } from '../worse.ts';

/** Runs unlike steps at the same time; when one fails the others in flight end, and no new one begins. */
export const runParallel: StepRunner<ParallelStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const number = address.slice(0, address.indexOf('/'));
  context.recorder.record({
    type: 'opened',
    step: address,
    key: 'parallel',
    kind: 'parallel',
    total: step.steps.length,
  });
  const total = { exit: 0, calls: 0, expects: 0, passed: 0 };
  let isStopped = false;
  let stops = false;
  let isReached = false;
  let isHalted = false;
  const scopes = step.steps.map(() => new Scope(context.scope));
  const account = ({ exit, calls, expects, passed, goesOn, ...outcome }: StepOutcome): void => {
    total.exit = worse(total.exit, exit);
    total.calls += calls;
    total.expects += expects;
    total.passed += passed;
    if (outcome.reached) isReached = true;
    if (outcome.halted && !isStopped) isHalted = true;
    if (outcome.stops && exit === 0) stops = true;
    if (outcome.stops || (outcome.outcome !== 'passed' && outcome.outcome !== 'skipped' && !goesOn)) isStopped = true;
  };
  let next = 0;
  const worker = async (): Promise<void> => {
    while (next < step.steps.length && !isStopped && !context.stopping.aborted && !context.isHalted()) {
      const index = next++;
      const each = step.steps[index]!;
      const inner = { ...context, scope: scopes[index]!, isHalted: () => isStopped || context.isHalted() };
      const outcome = await context.runStep(each, addressOf(`${number}.`, index, each), inner);
      if (each.kind === 'call' && each.name === context.goal?.call && outcome.exit === 0) isReached = true;
      account(outcome);
    }
  };
  await Promise.all(Array.from({ length: Math.min(step.concurrency ?? Infinity, step.steps.length) }, worker));
  for (const scope of scopes) for (const [name, { value, from }] of scope.own()) context.scope.bind(name, value, from);
  if (next < step.steps.length && context.isHalted()) isHalted = true;
  const exit = context.stopping.aborted && next < step.steps.length ? 130 : total.exit;
  const outcome = exit === 130 || (isHalted && exit === 0) ? 'cut' : exit === 0 ? 'passed' : 'failed';
  end({ outcome, quiet: true });
  if (isHalted) return { ...total, exit, outcome, halted: true, stops: true };
  if (isReached) return { ...total, exit, outcome, reached: true, stops: true };
  return { ...total, exit, outcome, ...(isStopped || stops || exit === 130 ? { stops: true } : { goesOn: true }) };
};
