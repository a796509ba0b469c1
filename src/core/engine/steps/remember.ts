import type { RememberStep } from '../../chain/model.ts';
import { evaluateAll } from '../bind.ts';
import { plainFrame } from '../frames.ts';
import type { StepRunner } from './definition.ts';

/** Notes values for the next run; they are written when this one has passed. It binds no name. */
export const runRemember: StepRunner<RememberStep> = async (step, context, end) => {
  const { binds, problems } = evaluateAll(step.names, plainFrame(context), context);
  const [problem] = problems;
  if (problem) return end({ problem, problems });
  for (const { name, real } of binds) context.memory.later.set(name, real);
  return end({ why: binds.map(({ name }) => name).join(', ') });
};
