import type { IfStep } from '../../chain/model.ts';
import { insideOfStep, insideOtherwise } from '../../journal/address.ts';
import { decide } from '../condition.ts';
import { plainFrame } from '../frames.ts';
import { outcomeOf } from '../outcome.ts';
import type { StepRunner } from './definition.ts';

/** Runs the steps of one arm; those inside `otherwise` are numbered `4.o1`. */
export const runIf: StepRunner<IfStep> = async (step, context, end) => {
  const { address, key, run } = context;
  const decided = decide(step.condition, plainFrame(context));
  if ('problem' in decided) return end(decided);
  const branch = decided.holds ? 'steps' : 'otherwise';
  const text = step.condition.source.text.trim();
  run.recorder.record({ type: 'opened', step: address, key, kind: 'if', branch, text });
  const inside = decided.holds ? insideOfStep(address) : insideOtherwise(address);
  const inner = await run.runSteps(step[branch], inside, context);
  const { outcome } = end({ outcome: outcomeOf(inner), why: branch });
  // A branch has gone on or stopped inside already.
  return { ...inner, outcome, goesOn: true };
};
