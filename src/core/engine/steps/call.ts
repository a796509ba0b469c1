import type { CallStep } from '../../chain/model.ts';
import { ender, sentEnding } from '../call/ending.ts';
import { pagedEnding } from '../call/paged.ts';
import { polledEnding } from '../call/polled.ts';
import { responseEnding } from '../call/response.ts';
import { Sender } from '../call/send.ts';
import { CallSink } from '../call/sink.ts';
import type { StepRunner } from './definition.ts';

/** Sends a call's request, reads the response, judges it and keeps of it what the call says. */
export const runCall: StepRunner<CallStep> = async (step, address, context) => {
  const endpoint = context.endpointOf(step.api?.text ?? context.chain.api?.text);
  const end = ender(step, address, context);
  if (step.paging) return end(await pagedEnding(step, address, step.paging, endpoint, context));
  if (step.poll) return end(await polledEnding(step, address, step.poll, endpoint, context));
  const sink = new CallSink(step, address, endpoint, context, () => sender.resolvers);
  const sender: Sender = new Sender(step, address, endpoint, context, sink.sinkFor);
  const sending = context.clock.monotonicMs();
  const sent = await sender.send();
  const tookMs = context.clock.monotonicMs() - sending;
  const unsent = sentEnding(step, address, sent, context);
  if (unsent) await sink.abandon();
  if (unsent || !('response' in sent)) return end(unsent!);
  return end(await responseEnding(step, address, sent, { endpoint, sink, tookMs, context }));
};
