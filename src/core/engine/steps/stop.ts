import type { StopStep } from '../../chain/model.ts';
import { fillText } from '../../template/fill.ts';
import { filling } from '../fill.ts';
import { placeOf, problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Ends the chain, as failed or as passed; what follows is not run. */
export const runStop: StepRunner<StopStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const filled = filling(() => fillText(step.text, resolversFor(context).masked));
  if ('diagnostic' in filled) return end({ problem: problemRecord(filled.diagnostic) });
  const text = filled.value;
  const problem = { code: 'stopped', message: text, source: placeOf(step.text.source) };
  return { ...end(step.as === 'passed' ? { why: text } : { problem }), stops: true };
};
