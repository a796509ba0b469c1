import type { CallStep } from '../../chain/model.ts';
import { changesSomething } from '../../chain/changes.ts';
import { wholeOf, diagnosticIn } from '../../diagnostics/source.ts';
import { redirectOf } from '../../http/redirect.ts';
import { buildRedirected, buildRequest, maskedByName, type BuildContext } from '../../http/build-request.ts';
import { decodeBody, mediaTypeOf, type Decoded } from '../../http/decode.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { DEFAULT_TIMEOUTS, headerOf, type Broken, type HttpRequest, type HttpResponse } from '../../http/message.ts';
import { isRepeatable, isChanging } from '../../http/methods.ts';
import type { Code } from '../../diagnostics/catalogue.ts';
import type { EventBody, ExpectRecord, ProblemRecord } from '../../journal/events.ts';
import { FillFault, type Resolver } from '../../template/fill.ts';
import { responseFrame, type RunContext } from '../context.ts';
import { bindAll } from '../bind.ts';
import { judge, judgeStatus } from '../judge.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { ResponseView } from '../response-names.ts';
import type { StepOutcome, StepRunner } from './definition.ts';
import { ended, type Ending } from './ended.ts';

/** Sends a call's request, reads the response, judges it and keeps of it what the call says. */
export const runCall: StepRunner<CallStep> = async (step, address, context) => {
  const endpoint = context.endpointOf(step.api?.text ?? context.chain.api?.text);
  const end = ender(step, address, context);
  const first = build(step, endpoint, context);
  if ('problem' in first) return end({ problem: first.problem, exit: 1 });

  const sending = context.clock.monotonicMs();
  const outcome = await exchangeFollowing(step, address, first, endpoint, context);
  const took = context.clock.monotonicMs() - sending;
  const { x, numbers } = outcome;
  if ('broken' in outcome) {
    const { broken } = outcome;
    const cut = context.signal.aborted;
    const { cause, phase, reached, message } = broken;
    const event: EventBody = { type: 'broken', x, cause, phase, reached, message };
    return end({ before: [event], x: numbers, problem: brokenProblem(step, broken), exit: 3, ...(cut ? { cut } : {}) });
  }
  const { response, request } = outcome;
  const decoded = await decodeBody(response);
  const view = new ResponseView(response, decoded, request.url, took, step.namespaces);
  const frame = responseFrame(context, endpoint, view);
  // The answer is recorded last: what a `keep` marks as secret is masked in its own response too.
  const answered = () => answeredEvent(x, response, decoded, context);
  if ('refused' in outcome && outcome.refused) {
    return end({ before: [answered()], x: numbers, problem: refusedProblem(step, outcome.refused), exit: 1 });
  }
  if (decoded.problem) {
    const expects = judgeStatus(step, response.status, stops(step, endpoint));
    return end({ before: [answered()], x: numbers, expects, problem: undecodable(step, decoded), exit: 3 });
  }
  const expects = await judge(step, response.status, stops(step, endpoint), { frame, exchange: x, endpoint, context });
  if (!expects.every(({ held }) => held)) {
    return end({ before: [answered()], x: numbers, expects, exit: 1, problem: failure(expects, decoded) });
  }
  const { binds, problems } = bindAll(step.keep, x, address, frame, context);
  const [problem] = problems;
  if (problem) return end({ before: [answered()], x: numbers, expects, exit: 1, problem, problems });
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  return end({
    before: [answered()],
    x: numbers,
    expects,
    exit: 0,
    binds: binds.map(({ real: _real, ...bind }) => bind),
  });
};

/** Whether a redirect is the response. */
function stops(step: CallStep, endpoint: Endpoint | undefined): boolean {
  return (step.redirects ?? endpoint?.redirects) === 'stop';
}

type Exchanged = Readonly<{ x: number; numbers: readonly number[]; request: HttpRequest }> &
  (
    | Readonly<{ response: HttpResponse; refused?: Readonly<{ code: Code; message: string; advice: string }> }>
    | Readonly<{ broken: Broken }>
  );

/** Sends a request and follows redirects; each hop is an exchange of its own in the record. */
async function exchangeFollowing(
  step: CallStep,
  address: string,
  first: Pair,
  endpoint: Endpoint | undefined,
  context: RunContext,
): Promise<Exchanged> {
  const limits = {
    timeouts: step.timeouts ?? endpoint?.timeouts ?? DEFAULT_TIMEOUTS,
    maxBodyBytes: context.maxBodyBytes,
  };
  const visited: HttpRequest[] = [];
  const numbers: number[] = [];
  let pair = first;
  for (let hop = 0; ; hop++) {
    const x = ++context.counters.exchanges;
    numbers.push(x);
    visited.push(pair.sent);
    await recordSent(step, address, { x, hop, pair, api: endpoint?.api ?? '' }, context);
    const { response, broken } = await context.transport.exchange(pair.sent, limits, context.signal);
    const done = { x, numbers, request: pair.sent };
    if (broken) return { ...done, broken };
    const redirect = stops(step, endpoint) ? undefined : redirectOf(pair.sent, response, visited);
    if (!redirect) return { ...done, response };
    if ('code' in redirect) return { ...done, response, refused: redirect };
    context.recorder.record(answeredEvent(x, response, await decodeBody(response), context));
    pair = built(step, endpoint, context, (build) => buildRedirected(build, redirect));
  }
}

type Sending = Readonly<{ x: number; hop: number; pair: Pair; api: string }>;

async function recordSent(
  step: CallStep,
  address: string,
  { x, hop, pair, api }: Sending,
  context: RunContext,
): Promise<void> {
  const { method, url, headers, body } = pair.shown;
  const repeatable = step.repeatable ?? isRepeatable(method);
  const recorded = body === undefined ? {} : { body: recordedBody(body, headerOf(headers, 'content-type'), context) };
  context.recorder.record({
    type: 'sent',
    x,
    step: address,
    key: step.name,
    purpose: 'call',
    tryNumber: 1,
    hop,
    api,
    request: { method, url, headers: context.recorder.headers(headers), ...recorded },
    repeatable,
    changing: hop === 0 ? changesSomething(step) : isChanging(method),
    flushed: !repeatable,
  });
  // What may not be sent twice is on disk before it goes out, so that even a power cut leaves a trace of it.
  if (!repeatable) await context.recorder.sync();
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

/** A request, and the record of it with masks in place of secrets. */
type Pair = Readonly<{ sent: HttpRequest; shown: HttpRequest }>;
type Built = Pair | Readonly<{ problem: ProblemRecord }>;

function build(step: CallStep, endpoint: Endpoint | undefined, context: RunContext): Built {
  try {
    return built(step, endpoint, context, buildRequest);
  } catch (error) {
    if (!(error instanceof FillFault)) throw error;
    return { problem: problemRecord(error.diagnostic) };
  }
}

/** Builds by the same code twice: with values, and for the record with masks. Throws `FillFault`. */
function built(
  step: CallStep,
  endpoint: Endpoint | undefined,
  context: RunContext,
  make: (context: BuildContext) => HttpRequest,
): Pair {
  const { real, masked, holdsSecret } = resolversFor(context, endpoint);
  const { request } = step;
  const { userAgent } = context;
  const sent = make({ request, endpoint, resolver: real, userAgent });
  const shown = holdsSecret() ? make({ request, endpoint, resolver: masked, userAgent }) : sent;
  return { sent, shown: maskedByName(shown, secretNamesOf(step, endpoint, masked)) };
}

const NO_NAMES: ReadonlySet<string> = new Set();

/** Names of the headers and parameters in which the credential of a call goes. */
function secretNamesOf({ request }: CallStep, endpoint: Endpoint | undefined, masked: Resolver): ReadonlySet<string> {
  const auth = request.auth === 'none' ? undefined : (request.auth ?? endpoint?.auth);
  if (!auth) return NO_NAMES;
  const credentials = auth.credentials(masked);
  return new Set(credentials.map(({ name }) => name.toLowerCase()));
}

function recordedBody(content: string | Uint8Array, header: string | undefined, { recorder }: RunContext) {
  const { type } = mediaTypeOf(header);
  return recorder.body({ content, type, as: typeof content === 'string' ? 'text' : 'bytes' });
}

function answeredEvent(x: number, response: HttpResponse, decoded: Decoded, context: RunContext): EventBody {
  const { type } = mediaTypeOf(headerOf(response.headers, 'content-type'));
  const content = decoded.text ?? response.body;
  return {
    type: 'answered',
    x,
    status: response.status,
    reason: response.reason,
    http: response.http,
    headers: maskedCookies(context.recorder.headers(response.headers)),
    ...(response.body.length > 0 ? { body: context.recorder.body({ content, type, as: decoded.as }) } : {}),
    decoded: decoded.as,
    encodedSize: response.encodedSize,
    ...(response.remote === undefined ? {} : { remote: response.remote }),
    reused: response.reused,
    timings: response.timings,
  };
}

/** Cookies are credentials: their values are masked whatever they are. */
function maskedCookies(headers: [string, string][]): [string, string][] {
  return headers.map(([name, value]) =>
    name.toLowerCase() === 'set-cookie' ? [name, value.replace(/^([^=;]*)=([^;]*)/, '$1=‹Set-Cookie›')] : [name, value],
  );
}

/** Characters of a body that stand in for the server's own words. */
const MAX_SAID = 300;

/** The call's first problem, with the server's own words when there are any. */
function failure(expects: readonly ExpectRecord[], decoded: Decoded): ProblemRecord {
  const first = expects.find(({ held }) => !held)!;
  const words = decoded.text?.trim().split('\n').slice(0, 5).join('\n') ?? '';
  const said = words.length > MAX_SAID ? `${words.slice(0, MAX_SAID)} …` : words;
  return {
    code: first.code ?? 'not-held',
    message: first.message ?? `${first.text} does not hold`,
    ...(first.source ? { source: first.source } : {}),
    ...(said ? { said } : {}),
  };
}

function brokenProblem(step: CallStep, { code, message, phase, reached }: Broken): ProblemRecord {
  const { source } = step.request.line!;
  const advice = {
    'no-connection':
      phase === 'lookup' || phase === 'connect' ? 'Is the server running, and is the url of the api right?' : undefined,
    'timed-out': 'The limit is set by timeout: of the call, the api or the deployment.',
    'body-too-big': undefined,
    'not-decodable': undefined,
    'over-limit': undefined,
  }[code];
  const doubt =
    reached === 'maybe' && !(step.repeatable ?? isRepeatable(step.request.line!.method))
      ? 'The server may have acted on it; look before sending it again.'
      : undefined;
  const advices = [advice, doubt].filter((each) => each !== undefined).join(' ');
  return problemRecord(
    diagnosticIn(source, { code, range: wholeOf(source), message, ...(advices ? { advice: advices } : {}) }),
  );
}

function refusedProblem(
  step: CallStep,
  { code, message, advice }: Readonly<{ code: Code; message: string; advice: string }>,
): ProblemRecord {
  const { source } = step.request.line!;
  return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message, advice }));
}

function undecodable(step: CallStep, decoded: Extract<Decoded, { problem: object }>): ProblemRecord {
  const { source } = step.request.line!;
  const { code, message, advice } = decoded.problem;
  const record = problemRecord(
    diagnosticIn(source, { code, range: wholeOf(source), message, ...(advice ? { advice } : {}) }),
  );
  const said = decoded.text?.slice(0, 200).trim();
  return said ? { ...record, said } : record;
}
