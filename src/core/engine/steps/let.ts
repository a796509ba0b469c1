import type { LetStep } from '../../chain/model.ts';
import { plainFrame } from '../context.ts';
import { bindAll } from '../judge.ts';
import type { StepRunner } from './definition.ts';

/** Computes variables, each from those before it; finding nothing fails the step. */
export const runLet: StepRunner<LetStep> = async (step, address, context) => {
  const frame = plainFrame(context, context.endpointOf(context.chain.api?.text));
  const { binds, problems } = bindAll(step.names, undefined, address, frame, context);
  const failed = problems.length > 0;
  if (!failed) for (const { name, real } of binds) context.scope.bind(name, real, address);
  const [problem, ...others] = problems;
  context.recorder.record({
    type: 'ended',
    step: address,
    key: 'let',
    kind: 'let',
    outcome: failed ? 'failed' : 'held',
    ms: 0,
    ...(failed ? {} : { binds: binds.map(({ real: _real, ...bind }) => bind) }),
    ...(problem ? { problem } : {}),
    ...(others.length > 0 ? { problems: others } : {}),
  });
  return { outcome: failed ? 'failed' : 'held', exit: failed ? 1 : 0, expects: 0, held: 0 };
};
