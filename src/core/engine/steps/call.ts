import type { CallStep } from '../../chain/model.ts';
import { changedSinceSent, inDoubt, notRecorded, savedChanged, secretGone, takenAsSent } from '../call/doubt.ts';
import { finishCall, resultOfUnsent, type CallResult } from '../call/finish.ts';
import { pagedResult } from '../call/paged.ts';
import { polledResult } from '../call/polled.ts';
import { beforeSending, type Before } from '../call/replay.ts';
import { requestsOf } from '../call/requests.ts';
import { judgedResponse } from '../call/response.ts';
import type { Requests } from '../call/sent.ts';
import { CallSink } from '../call/sink.ts';
import { callSite, type CallSite } from '../call/site.ts';
import { notReached } from '../outcome.ts';
import type { StepRunner } from './definition.ts';

/** Sends a call's request, or takes what is recorded of it; reads the response, judges it and keeps of it what the call says. */
export const runCall: StepRunner<CallStep> = async (step, context, end) => {
  const fresh = callSite(step, context);
  const before = beforeSending(fresh);
  if (context.cleanupOnly && !('replayed' in before) && !('forSecrets' in before)) return notReached;
  const site = 'replayed' in before ? { ...fresh, replayed: before.replayed } : fresh;
  return finishCall(site, settled(site, before) ?? (await sentResult(site)), end);
};

/** What comes of a call without anything being sent or read for it. */
function settled(site: CallSite, before: Before): CallResult | undefined {
  const { step } = site;
  if ('doubt' in before) return inDoubt(site, before.doubt);
  if ('notRecorded' in before) return notRecorded(step);
  if ('secretGone' in before) return secretGone(step, before.secretGone);
  if ('savedChanged' in before) return savedChanged(step, before.savedChanged);
  if ('taken' in before) return takenAsSent(site, before.taken);
  if ('changed' in before) return changedSinceSent(site, before.changed);
  return undefined;
}

async function sentResult(site: CallSite): Promise<CallResult> {
  const { paging, poll } = site.step;
  if (paging) return pagedResult(site, paging);
  if (poll) return polledResult(site, poll);
  const sink = new CallSink(site, () => sender.resolvers);
  const sender: Requests = requestsOf(site, sink.sinkFor);
  const sent = await sender.send();
  if ('response' in sent) return judgedResponse(site, sent, sink);
  await sink.abandon();
  return resultOfUnsent(site, sent)!;
}
