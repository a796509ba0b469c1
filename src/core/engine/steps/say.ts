import type { SayStep } from '../../chain/model.ts';
import type { EventBody } from '../../journal/events.ts';
import { FillFault, fillText } from '../../template/fill.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import type { StepRunner } from './definition.ts';

/** A line in the output and the record; a secret in it is masked. */
export const runSay: StepRunner<SayStep> = async (step, address, context) => {
  const { masked } = resolversFor(context, context.endpointOf(context.chain.api?.text));
  const ended = { type: 'ended', step: address, key: 'say', kind: 'say', ms: 0 } as const;
  try {
    const text = fillText(step.text, masked);
    const said: EventBody = { type: 'said', step: address, text };
    context.recorder.record(said, { ...ended, outcome: 'held' });
    return { outcome: 'held', exit: 0, expects: 0, held: 0 };
  } catch (error) {
    if (!(error instanceof FillFault)) throw error;
    context.recorder.record({ ...ended, outcome: 'failed', problem: problemRecord(error.diagnostic) });
    return { outcome: 'failed', exit: 1, expects: 0, held: 0 };
  }
};
