import { mediaTypeOf } from '../../http/decode.ts';
import { headerOf } from '../../http/message.ts';
import type { EventBody } from '../../journal/events.ts';
import { bindAll } from '../bind.ts';
import { allOffered } from '../expect/accept.ts';
import { judge, judgeStatus } from '../judge.ts';
import { authOf } from './build.ts';
import type { CallResult } from './finish.ts';
import {
  failedExpectation,
  notAllowed,
  notAuthorized,
  problemOf,
  replyOf,
  undecodable,
  whyNotAgain,
} from './problems.ts';
import { readResponse } from './read.ts';
import { answeredEvent } from './record.ts';
import type { Answered } from './sent.ts';
import type { CallSink } from './sink.ts';
import type { CallSite } from './site.ts';

/**
 * Judges a response and binds what is kept of it; `polls` are the looks so far of a call that polls. The answer is recorded
 * last: what a `keep` marks as secret is masked in its own response too.
 */
export async function judgedResponse(
  site: CallSite,
  sent: Answered,
  sink: CallSink,
  polls?: number,
): Promise<CallResult> {
  const { step, endpoint, context, replayed } = site;
  const { x, numbers, response, refused, isOwn, tries = 1, tried, tookMs = 0, notAgain } = sent;
  const { type } = mediaTypeOf(headerOf(response.headers, 'content-type'));
  const elsewhere = sink.isUsed ? await sink.finished(type) : undefined;
  const saved = replayed?.saved && { as: 'bytes' as const, value: replayed.saved };
  const around = { tookMs, tries, ...(polls === undefined ? {} : { polls }) };
  const { decoded, frame, judging, by } = readResponse(site, sent, around, saved ?? elsewhere?.decoded);
  const ended = async ({
    after = [],
    ...rest
  }: Omit<CallResult, 'before' | 'x'> & { after?: readonly EventBody[] }): Promise<CallResult> => {
    // What is not as it should be replaces no file.
    if (rest.exit === 0) sink.place();
    else await sink.abandon();
    const before = [answeredEvent(x, response, decoded, context.run.recorder, elsewhere?.body)];
    if (elsewhere?.file && rest.exit === 0) before.push(elsewhere.file);
    return { before: [...before, ...after], x: numbers, tries, tried, ...rest };
  };
  if (refused) return ended({ problem: problemOf(step, refused.code, refused.message, refused.advice), exit: 1 });
  if (sink.problem) return ended({ problem: sink.problem, exit: 1 });
  const { status } = response;
  if (decoded.problem)
    return ended({ expects: judgeStatus(step, status, endpoint), problem: undecodable(step, decoded), exit: 3 });
  const judged = judge(step, status, isOwn, judging);
  const expects = context.run.accept ? await allOffered(step.expect, judged, judging) : judged;
  if (expects.some(({ passed }) => !passed)) {
    const answer = replyOf(decoded, endpoint, frame);
    const auth = isOwn ? authOf(step.request, endpoint) : undefined;
    if (status === 401 && auth && auth === endpoint?.auth) context.run.refused.add(auth);
    const problem =
      auth && status === 401
        ? notAuthorized(step, auth, endpoint, context.run.secrets, answer)
        : auth && status === 403
          ? notAllowed(step, auth, endpoint, headerOf(response.headers, 'www-authenticate'), answer)
          : failedExpectation(expects, answer);
    return ended({ expects, exit: 1, problem, after: whyNotAgain(step, context.address, notAgain) });
  }
  const kept = bindAll(step.keep, frame, context, { by, exchange: x });
  return ended({ expects, exit: 'problem' in kept ? 1 : 0, ...kept });
}
