import type { CallStep } from '../../chain/model.ts';
import type { Code } from '../../diagnostics/catalogue.ts';
import { decodeBody, mediaTypeOf } from '../../http/decode.ts';
import { headerOf } from '../../http/message.ts';
import type { EventBody, ExpectRecord } from '../../journal/events.ts';
import { bindAll } from '../bind.ts';
import { authOf } from '../call/build.ts';
import {
  brokenProblem,
  failedExpectation,
  notAuthorized,
  problemOf,
  serverWords,
  undecodable,
} from '../call/problems.ts';
import { answeredEvent } from '../call/record.ts';
import { Sender, type Sent } from '../call/send.ts';
import { CallSink } from '../call/sink.ts';
import { responseFrame, type RunContext } from '../context.ts';
import { judge, judgeStatus } from '../judge.ts';
import { ResponseView } from '../response-names.ts';
import { plainOutcome, type StepOutcome, type StepRunner } from './definition.ts';
import { ended, type Ending } from './ended.ts';

/** Sends a call's request, reads the response, judges it and keeps of it what the call says. */
export const runCall: StepRunner<CallStep> = async (step, address, context) => {
  const endpoint = context.endpointOf(step.api?.text ?? context.chain.api?.text);
  const end = ender(step, address, context);
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

function brokenEnding(
  step: CallStep,
  { x, numbers, broken }: Extract<Sent, { broken: object }>,
  { signal }: RunContext,
): CallEnding {
  const { cause, phase, reached, message } = broken;
  const event: EventBody = { type: 'broken', x, cause, phase, reached, message };
  const cut = signal.aborted ? { cut: true as const } : {};
  return { before: [event], x: numbers, problem: brokenProblem(step, broken), exit: 3, ...cut };
}

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

type CallEnding = Pick<Ending, 'before' | 'expects' | 'binds' | 'problem' | 'problems'> &
  Readonly<{ x?: readonly number[]; exit: number; cut?: true }>;

/** Writes the end of a call, in one go with what came just before it, and says how it ended. */
function ender(step: CallStep, address: string, context: RunContext): (ending: CallEnding) => StepOutcome {
  const end = ended(step, address, context);
  return ({ before = [], x, expects = [], exit, cut, ...rest }) => {
    const notes = expects.flatMap((each) => notesOn(each, address));
    const outcome = exit === 0 ? 'held' : cut ? 'cut' : 'failed';
    const numbers = x === undefined ? {} : { x: [...x] };
    end({ ...rest, ...numbers, expects, outcome, before: [...before, ...notes] });
    return {
      outcome,
      exit: cut ? 130 : exit,
      calls: 1,
      expects: expects.length,
      held: expects.filter(({ held }) => held).length,
      ...(exit === 1 && step.onFailure === 'continue' ? { goesOn: true as const } : {}),
    };
  };
}

/** What is told of an expectation although it held: it said nothing of the response, or part of it had no effect. */
function notesOn({ text, source, overNone, idleExcept = [], accepted }: ExpectRecord, step: string): EventBody[] {
  const note = (code: Code, level: 'warning' | 'info', message: string): EventBody => ({
    type: 'note',
    code,
    level,
    message,
    step,
    ...(source ? { source } : {}),
  });
  return [
    ...(overNone ? [note('nothing-to-check', 'warning', `${text} held only because the list is empty`)] : []),
    ...idleExcept.map((path) =>
      note('except-finds-nothing', 'warning', `except ${path} finds nothing, in the response or in what it should be`),
    ),
    ...(accepted ? [note('accepted', 'info', `${text} was written from this response`)] : []),
  ];
}
