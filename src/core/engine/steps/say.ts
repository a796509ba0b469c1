import type { SayStep } from '../../chain/model.ts';
import { fillText } from '../../template/fill.ts';
import { filling } from '../fill.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** A line in the output and the record; a secret in it is masked. */
export const runSay: StepRunner<SayStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const filled = filling(() => fillText(step.text, resolversFor(context).masked));
  if ('diagnostic' in filled) return end({ problem: problemRecord(filled.diagnostic) });
  return end({ before: [{ type: 'said', step: address, text: filled.value }] });
};
