import type { SayStep } from '../../chain/model.ts';
import { FillFault, fillText } from '../../template/fill.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** A line in the output and the record; a secret in it is masked. */
export const runSay: StepRunner<SayStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const { masked } = resolversFor(context, context.endpointOf(context.chain.api?.text));
  try {
    return end({ before: [{ type: 'said', step: address, text: fillText(step.text, masked) }] });
  } catch (error) {
    if (!(error instanceof FillFault)) throw error;
    return end({ problem: problemRecord(error.diagnostic) });
  }
};
