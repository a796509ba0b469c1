import type { StopStep } from '../../chain/model.ts';
import { FillFault, fillText } from '../../template/fill.ts';
import { placeOf, problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Ends the chain, as failed or as passed; what follows is not run. */
export const runStop: StepRunner<StopStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const { masked } = resolversFor(context, context.endpointOf(context.chain.api?.text));
  try {
    const text = fillText(step.text, masked);
    if (step.as === 'passed') return { ...end({ outcome: 'held', why: text }), stops: true };
    return { ...end({ problem: { code: 'stopped', message: text, source: placeOf(step.text.source) } }), stops: true };
  } catch (error) {
    if (!(error instanceof FillFault)) throw error;
    return end({ problem: problemRecord(error.diagnostic) });
  }
};
