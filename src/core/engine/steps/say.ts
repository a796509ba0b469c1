import type { SayStep } from '../../chain/model.ts';
import { fillText } from '../../template/fill.ts';
import { resolversFor } from '../resolvers.ts';
import type { StepRunner } from './definition.ts';

/** A line in the output and the record; a secret in it is masked. */
export const runSay: StepRunner<SayStep> = async (step, context, end) => {
  const text = fillText(step.text, resolversFor(context).masked);
  return end({ before: [{ type: 'said', step: context.address, text }] });
};
