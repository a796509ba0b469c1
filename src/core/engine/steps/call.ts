import type { CallStep } from '../../chain/model.ts';
import { decodeBody, mediaTypeOf } from '../../http/decode.ts';
import { headerOf } from '../../http/message.ts';
import { bindAll } from '../bind.ts';
import { authOf } from '../call/build.ts';
import { brokenEnding, ender, type CallEnding } from '../call/ending.ts';
import { pagedEnding } from '../call/paged.ts';
import { failedExpectation, notAuthorized, problemOf, serverWords, undecodable } from '../call/problems.ts';
import { answeredEvent } from '../call/record.ts';
import { Sender, type Sent } from '../call/send.ts';
import { CallSink } from '../call/sink.ts';
import { responseFrame, type RunContext } from '../context.ts';
import { judge, judgeStatus } from '../judge.ts';
import { ResponseView } from '../response-names.ts';
import { plainOutcome, type StepOutcome, type StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Sends a call's request, reads the response, judges it and keeps of it what the call says. */
export const runCall: StepRunner<CallStep> = async (step, address, context) => {
  const endpoint = context.endpointOf(step.api?.text ?? context.chain.api?.text);
  const end = ender(step, address, context);
  if (step.paging) return end(await pagedEnding(step, address, step.paging, endpoint, context));
  const sink = new CallSink(step, address, endpoint, context, () => sender.resolvers);
  const sender: Sender = new Sender(step, address, endpoint, context, sink.sinkFor);
  const sending = context.clock.monotonicMs();
  const sent = await sender.send();
  const tookMs = context.clock.monotonicMs() - sending;
  if ('declined' in sent) return endDeclined(sent.declined, step, address, context);
  if ('problem' in sent) return end({ x: sent.numbers, problem: sent.problem, exit: sent.exit });
  if ('broken' in sent) {
    await sink.abandon();
    return end(brokenEnding(step, sent, context));
  }
  return end(await responseEnding(step, address, sent, { endpoint, sink, tookMs, context }));
};

/** A person did not want it sent: the call is skipped, or the run pauses before it. */
function endDeclined(answer: 'skip' | 'stop', step: CallStep, address: string, context: RunContext): StepOutcome {
  if (answer === 'skip') return ended(step, address, context)({ outcome: 'skipped', why: 'you said no' });
  context.recorder.record({ type: 'paused', why: 'interrupt', step: address });
  return { ...plainOutcome('cut'), stops: true };
}

type Around = Readonly<{
  endpoint: ReturnType<RunContext['endpointOf']>;
  sink: CallSink;
  tookMs: number;
  context: RunContext;
}>;

/** Judges a response and binds what is kept of it. The answer is recorded last: what a `keep` marks as secret is masked in its own response too. */
async function responseEnding(
  step: CallStep,
  address: string,
  { x, numbers, request, response, refused, isOwn }: Extract<Sent, { response: object }>,
  { endpoint, sink, tookMs, context }: Around,
): Promise<CallEnding> {
  const { type } = mediaTypeOf(headerOf(response.headers, 'content-type'));
  const elsewhere = await sink.finished(type);
  const decoded = elsewhere?.decoded ?? (await decodeBody(response, step.readAs));
  const view = new ResponseView(response, decoded, { url: request.url, tookMs }, step.namespaces);
  const frame = responseFrame(context, endpoint, view);
  const { status } = response;
  const ending = (rest: Omit<CallEnding, 'before' | 'x'>): CallEnding => ({
    before: [
      answeredEvent(x, response, decoded, context, elsewhere?.body),
      ...(elsewhere?.file ? [elsewhere.file] : []),
    ],
    x: numbers,
    ...rest,
  });
  if (refused) return ending({ problem: problemOf(step, refused.code, refused.message, refused.advice), exit: 1 });
  if (sink.problem) return ending({ problem: sink.problem, exit: 2 });
  if (decoded.problem) {
    return ending({ expects: judgeStatus(step, status, endpoint), problem: undecodable(step, decoded), exit: 3 });
  }
  const expects = await judge(step, status, isOwn, { frame, exchange: x, endpoint, context });
  const failed = expects.find(({ held }) => !held);
  if (failed) {
    const said = serverWords(decoded, endpoint, frame);
    const auth = isOwn ? authOf(step.request, endpoint) : undefined;
    const problem =
      auth && status === 401
        ? notAuthorized(step, auth, endpoint, context.secrets, said)
        : failedExpectation(expects, said);
    return ending({ expects, exit: 1, problem });
  }
  const { binds, problems } = bindAll(step.keep, x, address, frame, context);
  const [problem] = problems;
  if (problem) return ending({ expects, exit: 1, problem, problems });
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  return ending({ expects, exit: 0, binds: binds.map(({ real: _real, ...bind }) => bind) });
}
