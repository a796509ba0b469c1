import type { CallStep } from '../../chain/model.ts';
import { decodeBody, mediaTypeOf } from '../../http/decode.ts';
import { headerOf } from '../../http/message.ts';
import { bindAll } from '../bind.ts';
import { allOffered } from '../expect/accept.ts';
import { responseFrame, type RunContext } from '../context.ts';
import { judge, judgeStatus } from '../judge.ts';
import { ResponseView } from '../response-names.ts';
import { authOf } from './build.ts';
import type { EventBody } from '../../journal/events.ts';
import type { CallEnding } from './ending.ts';
import { failedExpectation, notAuthorized, problemOf, replyOf, undecodable, whyNotAgain } from './problems.ts';
import { answeredEvent } from './record.ts';
import type { Sent } from './send.ts';
import type { CallSink } from './sink.ts';

type Around = Readonly<{
  endpoint: ReturnType<RunContext['endpointOf']>;
  sink: CallSink;
  tookMs: number;
  /** Looks so far, of a call that polls. */
  polls?: number;
  context: RunContext;
}>;

/** Judges a response and binds what is kept of it. The answer is recorded last: what a `keep` marks as secret is masked in its own response too. */
export async function responseEnding(
  step: CallStep,
  address: string,
  { x, numbers, request, response, refused, isOwn, tries = 1, notAgain }: Extract<Sent, { response: object }>,
  { endpoint, sink, tookMs, polls, context }: Around,
): Promise<CallEnding> {
  const { type } = mediaTypeOf(headerOf(response.headers, 'content-type'));
  const elsewhere = sink.isUsed ? await sink.finished(type) : undefined;
  const saved = context.replayed?.saved;
  const decoded = saved
    ? { as: 'bytes' as const, value: saved }
    : (elsewhere?.decoded ?? decodeBody(response, step.readAs));
  const around = { url: request.url, tookMs, tries, ...(polls === undefined ? {} : { polls }) };
  const view = new ResponseView(response, decoded, around, step.namespaces);
  const frame = responseFrame(context, endpoint, view);
  const { status } = response;
  const ending = ({
    after = [],
    ...rest
  }: Omit<CallEnding, 'before' | 'x'> & { after?: readonly EventBody[] }): CallEnding => ({
    before: [
      answeredEvent(x, response, decoded, context, elsewhere?.body),
      ...(elsewhere?.file ? [elsewhere.file] : []),
      ...after,
    ],
    x: numbers,
    tries,
    ...rest,
  });
  if (refused) return ending({ problem: problemOf(step, refused.code, refused.message, refused.advice), exit: 1 });
  if (sink.problem) return ending({ problem: sink.problem, exit: 2 });
  if (decoded.problem) {
    return ending({ expects: judgeStatus(step, status, endpoint), problem: undecodable(step, decoded), exit: 3 });
  }
  const judging = { frame, exchange: x, endpoint, context };
  const judged = judge(step, status, isOwn, judging);
  const expects = context.accept ? await allOffered(step.expect, judged, judging) : judged;
  const failed = expects.find(({ passed }) => !passed);
  if (failed) {
    const answer = replyOf(decoded, endpoint, frame);
    const auth = isOwn ? authOf(step.request, endpoint) : undefined;
    const problem =
      auth && status === 401
        ? notAuthorized(step, auth, endpoint, context.secrets, answer)
        : failedExpectation(expects, answer);
    return ending({ expects, exit: 1, problem, after: whyNotAgain(step, address, notAgain) });
  }
  const { binds, problems } = bindAll(step.keep, x, address, frame, context);
  const [problem] = problems;
  if (problem) return ending({ expects, exit: 1, problem, problems });
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  return ending({ expects, exit: 0, binds: binds.map(({ real: _real, ...bind }) => bind) });
}
