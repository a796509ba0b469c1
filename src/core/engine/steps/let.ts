import type { LetStep } from '../../chain/model.ts';
import { bindAll } from '../bind.ts';
import { plainFrame } from '../context.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Computes variables, each from those before it; finding nothing fails the step. */
export const runLet: StepRunner<LetStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const frame = plainFrame(context);
  const { binds, problems } = bindAll(step.names, undefined, address, frame, context);
  const [problem] = problems;
  if (problem) return end({ problem, problems });
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  return end({ binds: binds.map(({ real: _real, ...bind }) => bind) });
};
