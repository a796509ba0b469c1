import type { StopStep } from '../../chain/model.ts';
import { fillText } from '../../template/fill.ts';
import { placeOf } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import type { StepRunner } from './definition.ts';

/** Ends the chain, as failed or as passed; what follows is not run. */
export const runStop: StepRunner<StopStep> = async (step, context, end) => {
  const text = fillText(step.text, resolversFor(context).masked);
  const problem = { code: 'stopped', message: text, source: placeOf(step.text.source) };
  return { ...end(step.as === 'passed' ? { why: text } : { problem }), stops: true };
};
