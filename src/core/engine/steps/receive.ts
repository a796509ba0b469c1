import type { ReceiveStep } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import { frameOf, type Frame } from '../../expression/frame.ts';
import { decodeBody, mediaTypeOf, type Decoded } from '../../http/decode.ts';
import { HeaderFields, headerText } from '../../http/headers.ts';
import { maskedByName } from '../../http/build-request.ts';
import { headerOf, type Header } from '../../http/message.ts';
import type { ProblemRecord } from '../../journal/events.ts';
import type { CallbackAnswer, ReceivedRequest } from '../../ports.ts';
import { fillFault, fillValue, type Resolver } from '../../template/fill.ts';
import { Bytes, type Maybe } from '../../value/value.ts';
import { bindAll } from '../bind.ts';
import { failedExpectation } from '../call/problems.ts';
import { plainFrame, type RunContext } from '../context.ts';
import { filling } from '../fill.ts';
import { allOffered } from '../expect/accept.ts';
import { judgeEntry } from '../judge.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { notReached, type StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Waits for a request at an address that was opened before, answers it, and keeps of it what the step says. */
export const runReceive: StepRunner<ReceiveStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const server = context.callbacks.get(step.name);
  const fail = (problem: ProblemRecord) => ({ ...end({ problem }), stops: true as const });
  const before = receivedBefore(step, context);
  if (before) return receivedAgain(step, address, before, context, end);
  if (context.isTidying) return notReached;
  if (!server && context.kept?.mode === 'rehearse')
    return fail(problemOf(step, 'not-recorded', `There is no recorded callback`, 'Run the chain to record one.'));
  if (!server) return fail(problemOf(step, 'no-listener', `No listen step opened "${step.name}"`));
  // A body is decoded in a moment of its own, so what decides is asked of requests that were read already.
  const read = new Map<ReceivedRequest, Frame>();
  const frameFor = (request: ReceivedRequest, decoded: Decoded): Frame => {
    const frame = receivedFrame(request, decoded, context);
    read.set(request, frame);
    return frame;
  };
  const fits = (request: ReceivedRequest): boolean => {
    if (!step.until?.tree) return true;
    const text = new TextDecoder().decode(request.body);
    return evaluate(step.until.tree, frameFor(request, quickly(request, text))).value === true;
  };
  const { waits, clock, recorder } = context;
  const waiting = waits.begin('receive', address, { detail: step.name, until: clock.nowMs() + step.withinMs });
  const received = await server.next(fits, {
    milliseconds: step.withinMs,
    signal: context.stopping,
    passed: (request) => record(step, address, request, 202, context),
  });
  recorder.record(...waiting.end());
  if (!received) {
    if (context.stopping.aborted) return { ...end({ outcome: 'cut' }), exit: 130, stops: true };
    return fail(
      problemOf(
        step,
        'no-callback',
        `No callback arrived within ${step.withinMs / 1000} s`,
        'Check that its URL was sent to the server, and that the server can reach it.',
      ),
    );
  }
  const decoded = decodeBody({ ...received, ...NO_RESPONSE });
  const frame = frameFor(received, decoded);
  const answer = filling(() => answerOf(step, frame, context));
  if ('diagnostic' in answer) {
    received.answer({ status: 500, headers: [], body: '' });
    return fail(problemRecord(answer.diagnostic));
  }
  received.answer(answer.value);
  record(step, address, received, answer.value.status, context);
  const judging = { frame, exchange: 0, endpoint: undefined, context };
  const judged = step.expect.map((each) => judgeEntry(each, judging));
  const expects = await allOffered(step.expect, judged, judging);
  const totals = { calls: 0, expects: expects.length, passed: expects.filter(({ passed }) => passed).length };
  if (totals.passed < totals.expects) {
    return { ...end({ expects, problem: failedExpectation(expects) }), ...totals, exit: 1, stops: true };
  }
  const { binds, problems } = bindAll(step.keep, undefined, address, frame, context);
  const [problem] = problems;
  if (problem) return { ...end({ expects, problem, problems }), ...totals, exit: 1, stops: true };
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  return {
    ...end({ expects, binds: binds.map(({ real: _real, ...bind }) => bind), why: `${received.method} received` }),
    ...totals,
  };
};

/** The request that was received before the run stopped, or in the run that is rehearsed or of which one call is sent again. */
function receivedBefore(step: ReceiveStep, { kept, keyPrefix, chain }: RunContext): ReceivedRequest | undefined {
  if (!kept || (!kept.isSameRun && kept.mode === 'go-on')) return undefined;
  const request = kept.records.received(keyPrefix + stepKey(chain, step));
  return request && { ...request, body: (request.body && kept.records.body(request.body)) ?? new Uint8Array() };
}

/** What was received stays received, and was judged then; what is kept of it is read again. */
async function receivedAgain(
  step: ReceiveStep,
  address: string,
  request: ReceivedRequest,
  context: RunContext,
  end: ReturnType<typeof ended>,
): ReturnType<typeof runReceive> {
  const frame = receivedFrame(request, decodeBody({ ...request, ...NO_RESPONSE }), context);
  const { binds, problems } = bindAll(step.keep, undefined, address, frame, context);
  const [problem] = problems;
  if (problem) return { ...end({ problem, problems }), stops: true };
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  return end({ binds: binds.map(({ real: _real, ...bind }) => bind), why: `${request.method} received before` });
}

const NO_RESPONSE = {
  status: 200,
  reason: '',
  http: '',
  encodedSize: 0,
  reused: false,
  timings: { blocked: 0, dns: 0, connect: 0, tls: 0, send: 0, wait: 0, receive: 0 },
};

/** The body as far as it can be read at once, for what chooses among requests: JSON, else text. */
function quickly({ headers }: ReceivedRequest, text: string): Decoded {
  if (!mediaTypeOf(headerOf(headers, 'content-type')).type.includes('json')) return { as: 'text', value: text, text };
  try {
    return { as: 'json', value: JSON.parse(text) as never, text };
  } catch {
    return { as: 'text', value: text, text };
  }
}

/** `$`, `headers`, `method`, `url`, `query` and `raw` of the request received; other names are the chain's. */
function receivedFrame(request: ReceivedRequest, decoded: Decoded, context: RunContext): Frame {
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
function answerOf({ respond }: ReceiveStep, frame: Frame, context: RunContext): CallbackAnswer {
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
  step: string,
  { method, url, headers, body }: ReceivedRequest,
  answered: number,
  { recorder }: RunContext,
): void {
  const shown = maskedByName({ method, url, headers }, new Set());
  const { type } = mediaTypeOf(headerOf(headers, 'content-type'));
  const content = new TextDecoder().decode(body);
  const as = type.includes('json') ? ('json' as const) : ('text' as const);
  const kept = body.length > 0 ? { body: recorder.body({ content, type, as }) } : {};
  recorder.record({
    type: 'called-back',
    name,
    step,
    request: { method, url, headers: shown.headers, ...kept },
    answered,
  });
}

function problemOf(
  { nameSource: source }: ReceiveStep,
  code: 'no-listener' | 'no-callback' | 'not-recorded',
  message: string,
  advice?: string,
): ProblemRecord {
  return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message, ...(advice ? { advice } : {}) }));
}
