import type { CallStep } from '../../chain/model.ts';
import { ender, sentEnding } from '../call/ending.ts';
import { inDoubt, notRecorded, savedChanged, secretGone } from '../call/doubt.ts';
import { pagedEnding } from '../call/paged.ts';
import { polledEnding } from '../call/polled.ts';
import { beforeSending } from '../call/replay.ts';
import { requestsOf } from '../call/requests.ts';
import { responseEnding } from '../call/response.ts';
import type { Requests } from '../call/send.ts';
import { CallSink } from '../call/sink.ts';
import { notReached, type StepRunner } from './definition.ts';

/** Sends a call's request, or takes what is recorded of it; reads the response, judges it and keeps of it what the call says. */
export const runCall: StepRunner<CallStep> = async (step, address, outer) => {
  const endpoint = outer.endpointOf(step.api?.text ?? outer.chain.api?.text);
  const before = beforeSending(step, address, endpoint, outer);
  if (outer.isTidying && !('replayed' in before) && !('forSecrets' in before)) return notReached;
  const context = 'replayed' in before ? { ...outer, replayed: before.replayed } : outer;
  const end = ender(step, address, endpoint, context);
  if ('doubt' in before) return end(inDoubt(step, address, before.doubt, context));
  if ('notRecorded' in before) return end(notRecorded(step));
  if ('secretGone' in before) return end(secretGone(step, before.secretGone));
  if ('savedChanged' in before) return end(savedChanged(step, before.savedChanged));
  if ('taken' in before) return end({ exit: 0, why: 'taken as processed, as you said; it kept nothing' });
  if (step.paging) return end(await pagedEnding(step, address, step.paging, endpoint, context));
  if (step.poll) return end(await polledEnding(step, address, step.poll, endpoint, context));
  const sink = new CallSink(step, address, endpoint, context, () => sender.resolvers);
  const sender: Requests = requestsOf(step, address, endpoint, context, sink.sinkFor);
  const sent = await sender.send();
  const { tookMs = 0 } = sent;
  const unsent = sentEnding(step, address, sent, context);
  if (unsent) await sink.abandon();
  if (unsent || !('response' in sent)) return end(unsent!);
  return end(await responseEnding(step, address, sent, { endpoint, sink, tookMs, context }));
};
