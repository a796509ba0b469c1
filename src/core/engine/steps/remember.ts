import type { RememberStep } from '../../chain/model.ts';
import { bindAll } from '../bind.ts';
import { plainFrame } from '../context.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Notes values for the next run; they are written when this one has passed. It binds no name. */
export const runRemember: StepRunner<RememberStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const { binds, problems } = bindAll(step.names, undefined, address, plainFrame(context), context);
  const [problem] = problems;
  if (problem) return { ...end({ problem, problems }), stops: true };
  for (const { name, real } of binds) context.memory.later.set(name, real);
  return end({ why: binds.map(({ name }) => name).join(', ') });
};
