import type { ExpectRecord, ProblemRecord } from '../../journal/records.ts';
import { mediaTypeOf } from '../../http/decode.ts';
import { headerOf, type HttpResponse } from '../../http/message.ts';
import type { CallStep } from '../../chain/model.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { present } from '../../value/present.ts';
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
  const { context, replayed } = site;
  const { x, numbers, response, tries = 1, tried, tookMs = 0 } = sent;
  const elsewhere = await finished(sink, response);
  const decoded = replayed?.decoded ?? elsewhere?.decoded;
  const read = readResponse(site, sent, { tookMs, tries, ...present({ polls }) }, decoded);
  const { after = [], ...judged } = await judgedBy(site, sent, sink, read);
  // What is not as it should be replaces no file.
  const isKept = judged.exit === 0 && !judged.arm;
  if (isKept) sink.place();
  else await sink.abandon();
  const before: EventBody[] = [answeredEvent(x, response, read.decoded, context.run.recorder, elsewhere?.body)];
  if (elsewhere?.file && isKept) before.push(elsewhere.file);
  return { before: [...before, ...after], x: numbers, tries, tried, ...judged };
}

/** What became of a body that went elsewhere. */
async function finished(sink: CallSink, { headers }: HttpResponse) {
  return sink.isUsed ? sink.finished(mediaTypeOf(headerOf(headers, 'content-type')).type) : undefined;
}

type Judged = Omit<CallResult, 'before' | 'x'> & Readonly<{ after?: readonly EventBody[] }>;
type ReadResponse = ReturnType<typeof readResponse>;

async function judgedBy(site: CallSite, sent: Answered, sink: CallSink, read: ReadResponse): Promise<Judged> {
  const { step, endpoint } = site;
  return (
    ofArm(step, sent.response) ?? unfit(step, sent, sink, read, endpoint) ?? (await judgedAndKept(site, sent, read))
  );
}

/** A response with a status that has steps of its own: nothing else is expected of it, and nothing kept. */
function ofArm({ onStatus }: CallStep, { status }: HttpResponse): Judged | undefined {
  const arm = onStatus.find((each) => each.status === status);
  const text = `on-status: ${status}`;
  return arm && { expects: [{ text, passed: true, of: 'call' }], exit: 0, why: text, arm };
}

/** A response that cannot be judged: where a redirect was refused, where it could not be saved, or not be decoded. */
function unfit(
  step: CallStep,
  { refused, response }: Answered,
  sink: CallSink,
  { decoded }: ReadResponse,
  endpoint: Endpoint | undefined,
): Judged | undefined {
  if (refused) return { problem: problemOf(step, refused.code, refused.message, refused.advice), exit: 1 };
  if (sink.problem) return { problem: sink.problem, exit: 1 };
  if (!decoded.problem) return undefined;
  return { expects: judgeStatus(step, response.status, endpoint), problem: undecodable(step, decoded), exit: 3 };
}

async function judgedAndKept(site: CallSite, sent: Answered, read: ReadResponse): Promise<Judged> {
  const { step, context } = site;
  const { frame, judging, by } = read;
  const judged = judge(step, sent.response.status, sent.isOwn, judging);
  const expects = context.run.accept ? await allOffered(step.expect, judged, judging) : judged;
  if (expects.some(({ passed }) => !passed)) {
    const after = whyNotAgain(step, context.address, sent.notAgain);
    return { expects, exit: 1, problem: whyNotAsExpected(site, sent, read, expects), after };
  }
  const kept = bindAll(step.keep, frame, context, { by, exchange: sent.x });
  return { expects, exit: 'problem' in kept ? 1 : 0, ...kept };
}

/** Of a status that refuses a credential that is told, else the expectation that failed. */
function whyNotAsExpected(
  { step, endpoint, context }: CallSite,
  { response: { status, headers }, isOwn }: Answered,
  { decoded, frame }: ReadResponse,
  expects: readonly ExpectRecord[],
): ProblemRecord {
  const answer = replyOf(decoded, endpoint, frame);
  const auth = isOwn ? authOf(step.request, endpoint) : undefined;
  if (status === 401 && auth && auth === endpoint?.auth) context.run.refused.add(auth);
  if (auth && status === 401) return notAuthorized(step, auth, endpoint, context.run.secrets, answer);
  if (auth && status === 403) return notAllowed(step, auth, endpoint, headerOf(headers, 'www-authenticate'), answer);
  return failedExpectation(expects, answer);
}
