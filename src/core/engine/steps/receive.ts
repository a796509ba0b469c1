import type { ProblemRecord } from '../../journal/records.ts';
import type { ReceiveStep } from '../../chain/model.ts';
import { evaluate } from '../../expression/evaluate.ts';
import { frameOf, type Frame } from '../../expression/frame.ts';
import { decodeBody, mediaTypeOf } from '../../http/decode.ts';
import { HeaderFields, headerText } from '../../http/headers.ts';
import { maskedByName } from '../../http/shown-request.ts';
import { headerOf, type Header } from '../../http/message.ts';
import type { CallbackAnswer, ReceivedRequest } from '../../ports.ts';
import { fillFault, fillValue, type Resolver } from '../../template/fill.ts';
import { counted, spent } from '../../value/show.ts';
import { Bytes, type Maybe } from '../../value/value.ts';
import { bindAll } from '../bind.ts';
import { failedExpectation } from '../call/problems.ts';
import { States } from '../attempts.ts';
import { plainFrame } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { catchFillFault } from '../fill.ts';
import { allOffered } from '../expect/accept.ts';
import { judgeEntry } from '../judge.ts';
import { problemAt } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import type { CallbackServer } from '../../ports.ts';
import type { StepRunner } from './definition.ts';
import type { EndStep } from './start.ts';
import { notReached, type StepOutcome } from '../outcome.ts';
import { verified } from './verify.ts';

/** Waits for a request at an address that was opened before, answers it, and keeps of it what the step says. */
export const runReceive: StepRunner<ReceiveStep> = async (step, context, end) => {
  const server = context.callbacks.get(step.name);
  const before = receivedBefore(context);
  if (before) return receivedAgain(step, before, context, end);
  if (context.cleanupOnly) return notReached;
  if (!server) return end({ problem: noListener(step, context) });
  const { received, passedOver } = await awaited(step, server, context);
  if (!received) {
    if (context.run.stopping.aborted) return { ...end({ outcome: 'cut' }), exit: 130, stops: true };
    return end({ problem: noCallback(step, passedOver, context) });
  }
  const frame = receivedFrame(received, context);
  const refused = step.verify && verified(step.verify, received, frame, context);
  const answer = catchFillFault(() => answerOf(refused ? (step.refuse ?? REFUSED) : step.respond, frame, context));
  if ('problem' in answer) {
    received.answer({ status: 500, headers: [], body: '' });
    return end(answer);
  }
  received.answer(answer.value);
  record(step, received, answer.value, context);
  if (refused) return end({ problem: refused });
  return judged(step, received, frame, context, end);
};

/** What was received is judged as a response is, and kept of it what the step says. */
async function judged(step: ReceiveStep, { method }: ReceivedRequest, frame: Frame, context: StepFrame, end: EndStep) {
  const judging = { frame, exchange: 0, endpoint: undefined, context };
  const entries = step.expect.map((each) => judgeEntry(each, judging));
  const expects = await allOffered(step.expect, entries, judging);
  const totals = { calls: 0, expects: expects.length, passed: expects.filter(({ passed }) => passed).length };
  if (totals.passed < totals.expects) return { ...end({ expects, problem: failedExpectation(expects) }), ...totals };
  const kept = bindAll(step.keep, frame, context);
  const ended = end({ expects, ...kept, ...('problem' in kept ? {} : { why: `${method} received` }) });
  return { ...ended, ...totals };
}

/** What is answered whose signature does not fit. */
const REFUSED = { status: 401, headers: [], body: undefined };

/** Callbacks that arrived and were not those that are waited for. */
type PassedOver = Readonly<{ count: number; last: ReceivedRequest | undefined }>;

async function awaited(step: ReceiveStep, server: CallbackServer, context: StepFrame) {
  const { address, run } = context;
  const fits = (request: ReceivedRequest): boolean =>
    !step.until?.tree || evaluate(step.until.tree, receivedFrame(request, context)).value === true;
  const until = run.clock.nowMs() + step.withinMs;
  const waiting = run.waits.begin('receive', address, { detail: step.name, until });
  let passedOver: PassedOver = { count: 0, last: undefined };
  const received = await server.next(fits, {
    milliseconds: step.withinMs,
    signal: run.stopping,
    passed: (request) => {
      passedOver = { count: passedOver.count + 1, last: request };
      record(step, request, { status: 202, headers: [], body: '' }, context);
    },
  });
  run.recorder.record(...waiting.end());
  return { received, passedOver };
}

function noListener({ nameSource, name }: ReceiveStep, { recorded }: StepFrame): ProblemRecord {
  if (recorded?.mode !== 'rehearse') return problemAt(nameSource, 'no-listener', `No listen step opened "${name}"`);
  return problemAt(nameSource, 'not-recorded', 'There is no recorded callback', 'Run the chain to record one.');
}

/** Nothing came in time, or nothing that was waited for. */
function noCallback(step: ReceiveStep, { count, last }: PassedOver, context: StepFrame): ProblemRecord {
  const within = spent(step.withinMs);
  if (!last || !step.until) {
    const advice = 'Check that its URL was sent to the server, and that the server can reach it.';
    return problemAt(step.nameSource, 'no-callback', `No callback arrived within ${within}`, advice);
  }
  const came = `${counted(count, 'callback')} came by the time limit of ${within}, and none made until true`;
  const seen = new States().seen([step.until], receivedFrame(last, context), context);
  const problem = problemAt(step.until.source, 'no-callback', came, 'What until read of the last one is below.');
  return { ...problem, seen: [...seen] };
}

/** The request that was received before the run stopped, or in the run that is rehearsed or of which one call is sent again. */
function receivedBefore({ recorded, key }: StepFrame): ReceivedRequest | undefined {
  if (!recorded || (!recorded.isSameRun && recorded.mode === 'go-on')) return undefined;
  const { records } = recorded;
  const request = records.steps.received(key);
  return request && { ...request, body: (request.body && records.beside.body(request.body)) ?? new Uint8Array() };
}

/** What was received stays received, and was judged then; what is kept of it is read again. */
function receivedAgain(step: ReceiveStep, request: ReceivedRequest, context: StepFrame, end: EndStep): StepOutcome {
  const kept = bindAll(step.keep, receivedFrame(request, context), context);
  return end({ ...kept, ...('problem' in kept ? {} : { why: `${request.method} received before` }) });
}

const NO_RESPONSE = {
  status: 200,
  reason: '',
  http: '',
  encodedSize: 0,
  reused: false,
  timings: { blocked: 0, dns: 0, connect: 0, tls: 0, send: 0, wait: 0, receive: 0 },
};

/** `$`, `headers`, `method`, `url`, `query` and `raw` of the request received; other names are the chain's. */
function receivedFrame(request: ReceivedRequest, context: StepFrame): Frame {
  const decoded = decodeBody({ ...request, ...NO_RESPONSE });
  const plain = plainFrame(context);
  const query = new URL(request.url).searchParams;
  const value = (name: string): Maybe => {
    switch (name) {
      case 'headers':
        return new HeaderFields(request.headers);
      case 'method':
        return request.method;
      case 'url':
        return request.url;
      case 'raw':
        return new Bytes(request.body);
      case 'query':
        // The first value of a parameter that came several times.
        return Object.fromEntries([...query.keys()].map((key) => [key, query.get(key)!]));
      default:
        return plain.name(name);
    }
  };
  return frameOf(decoded.problem ? undefined : decoded.value, value, context.host);
}

/** The answer: its placeholders see the request. */
function answerOf(respond: ReceiveStep['respond'], frame: Frame, context: StepFrame): CallbackAnswer {
  if (!respond) return { status: 204, headers: [], body: '' };
  const resolver: Resolver = {
    ...resolversFor(context).real,
    value: (placeholder) => {
      const { value, problem } = evaluate(placeholder.node, frame);
      return problem ? fillFault(placeholder.source, problem) : value;
    },
  };
  const headers = respond.headers.flatMap(({ name, value }): Header[] => {
    const filled = fillValue(value, resolver);
    const text = filled === 'left-out' || filled.value === null ? undefined : headerText(filled.value);
    return typeof text === 'string' ? [[name, text]] : [];
  });
  const host = { openFile: context.runHost.openFile, namedFiles: context.runHost.namedFiles, boundary: '' };
  const body = respond.body?.build(resolver, host);
  const type: Header[] = respond.body ? [['Content-Type', respond.body.type('')]] : [];
  return { status: respond.status, headers: [...type, ...headers], body: typeof body === 'string' ? body : '' };
}

function record(
  { name }: ReceiveStep,
  { method, url, headers, body }: ReceivedRequest,
  answer: CallbackAnswer,
  { address, run: { recorder } }: StepFrame,
): void {
  const shown = maskedByName({ method, url, headers }, new Set());
  const bodyOf = (of: readonly Header[], content: string) => {
    if (content === '') return {};
    const { type } = mediaTypeOf(headerOf(of, 'content-type'));
    return { body: recorder.body({ content, type, as: type.includes('json') ? 'json' : 'text' }) };
  };
  const { status: answered, headers: with_, body: text } = answer;
  const said = with_.length > 0 || text !== '';
  recorder.record({
    type: 'called-back',
    name,
    step: address,
    request: { method, url, headers: shown.headers, ...bodyOf(headers, new TextDecoder().decode(body)) },
    answered,
    ...(said ? { answer: { headers: [...with_], ...bodyOf(with_, text) } } : {}),
  });
}
