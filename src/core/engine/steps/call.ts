import type { CallStep, StatusArm } from '../../chain/model.ts';
import { insideOfStep, stepAddress } from '../../journal/address.ts';
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
import { added, notReached, outcomeOf, type StepOutcome } from '../outcome.ts';
import type { StepRunner } from './definition.ts';

/** Sends a call's request, or takes what is recorded of it; reads the response, judges it and keeps of it what the call says. */
export const runCall: StepRunner<CallStep> = async (step, context, end) => {
  const fresh = callSite(step, context);
  const before = beforeSending(fresh);
  if (context.cleanupOnly && !('replayed' in before) && !('forSecrets' in before)) return notReached;
  const site = 'replayed' in before ? { ...fresh, replayed: before.replayed } : fresh;
  const result = settled(site, before) ?? (await sentResult(site));
  const ended = finishCall(site, result, end);
  return result.arm && ended.outcome === 'passed' ? armDone(site, result.arm, ended) : ended;
};

/** Runs the steps for a status, then the call anew where the arm says so, as a further step behind them. */
async function armDone({ step, context }: CallSite, arm: StatusArm, ended: StepOutcome): Promise<StepOutcome> {
  const { address, key, run } = context;
  const inside = insideOfStep(address);
  const inner = await run.runSteps(arm.steps, inside, context);
  const so = { ...inner, ...added(ended, inner) };
  if (arm.again === 0 || inner.exit !== 0 || inner.stops) return { ...so, outcome: outcomeOf(inner), goesOn: true };
  const anew = { ...context, keyPrefix: `${key}@/` };
  const last = await run.runStep(sentAnew(step, arm), stepAddress(inside, arm.steps.length, step.name), anew);
  return { ...last, ...added(so, last) };
}

const anew = new WeakMap<StatusArm, CallStep>();

/** The same call with one time less to be sent anew for a status; when none is left the status fails it. */
function sentAnew(step: CallStep, arm: StatusArm): CallStep {
  let again = anew.get(arm);
  if (!again) {
    const onStatus = step.onStatus.flatMap((each) =>
      each !== arm ? [each] : arm.again > 1 ? [{ ...arm, again: arm.again - 1 }] : [],
    );
    anew.set(arm, (again = { ...step, onStatus }));
  }
  return again;
}

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
  const sender: Requests = requestsOf(site, sink);
  const sent = await sender.send();
  if ('response' in sent) return judgedResponse(site, sent, sink);
  await sink.abandon();
  return resultOfUnsent(site, sent)!;
}
