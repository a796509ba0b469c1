import type { ExpectRecord, ProblemRecord, Reply } from '../../journal/records.ts';
import type { CallStep } from '../../chain/model.ts';
import { indentedXml } from '../../value/xml-indent.ts';
import { formOfText, pageText, readAsAdvice } from '../../http/text-form.ts';
import { mayRepeat } from '../../chain/changes.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import type { Auth } from '../../http/auth/definition.ts';
import { challengesOf } from '../../http/auth/challenges.ts';
import type { Decoded } from '../../http/decode.ts';
import { endpointWords, type Endpoint } from '../../http/endpoint.ts';
import type { Broken, Limit } from '../../http/message.ts';
import type { Decision } from '../../pacing/retry.ts';
import { spent } from '../../value/show.ts';
import type { EventBody } from '../../journal/events.ts';
import { secretsInTexts } from '../../chain/secrets-asked.ts';
import { excerpt, wholeWords } from '../../value/excerpt.ts';
import type { ObjectValue } from '../../value/value.ts';
import { placeOf, problemRecord } from '../places.ts';

/** Lines of a body, and characters of a text, that are shown with a failure. */
const MAX_LINES = 16;
const MAX_TEXT = 300;

/** What the server answered: what `error-message` finds, else an excerpt of the body. */
export function replyOf(decoded: Decoded, endpoint: Endpoint | undefined, frame: Frame): Reply | undefined {
  const tree = endpoint?.errorMessage?.tree;
  const message = tree && evaluate(tree, frame).value;
  if (message !== undefined && message !== null)
    return reply('message', typeof message === 'string' ? shortened(message) : excerpt(message, MAX_LINES));
  if (decoded.as === 'json' && !decoded.problem && decoded.value !== undefined)
    return reply('body', excerpt(decoded.value, MAX_LINES));
  const lines = readableLines(decoded);
  return reply('body', shortened(lines.length > 5 ? `${lines.slice(0, 5).join('\n')} …` : lines.join('\n')));
}

/** A body that is no JSON as people read it. */
function readableLines({ as, text = '' }: Decoded): readonly string[] {
  return (as === 'xml' ? indentedXml(text) : pageText(text)).trim().split('\n');
}

function reply(part: Reply['part'], text: string): Reply | undefined {
  return text === '' ? undefined : { part, text };
}

function shortened(text: string): string {
  return text.length > MAX_TEXT ? `${wholeWords(text, MAX_TEXT)} …` : text;
}

/** The first expectation that failed, as the problem of its call. */
export function failedExpectation(expects: readonly ExpectRecord[], answer?: Reply): ProblemRecord {
  const first = expects.find(({ passed }) => !passed)!;
  return {
    code: first.code ?? 'expectation-false',
    message: first.message ?? `${first.text} is false`,
    ...(first.source ? { source: first.source } : {}),
    ...(answer ? { reply: answer } : {}),
  };
}

/** A 401 to a credential: who asked, by which scheme, and what is odd about its secrets, without showing them. */
export function notAuthorized(
  step: CallStep,
  auth: Auth,
  endpoint: Endpoint | undefined,
  secrets: ObjectValue,
  answer: Reply | undefined,
): ProblemRecord {
  const where = endpoint ? endpointWords(endpoint) : '';
  const names = secretsOf(auth);
  const odd = names.flatMap((name) => oddities(name, secrets[name], auth.scheme));
  const message = `${where} answered 401 to ${auth.scheme} credentials${odd.length > 0 ? `: ${odd.join('; ')}` : ''}`;
  return withReply(problemOf(step, 'not-authorized', message, credentialAdvice(auth, names, endpoint)), answer);
}

/** The secrets that a credential is made of, each once. */
function secretsOf({ texts }: Auth): readonly string[] {
  return [...new Set(secretsInTexts(texts))];
}

/** How credentials are made anew: by signing in, or by setting the secrets that they are made of. */
function credentialAdvice(auth: Auth, names: readonly string[], endpoint: Endpoint | undefined): string {
  const { api = '', deployment } = endpoint ?? {};
  const made = names.length === 0 ? '' : `They were made with ${names.join(', ')}. `;
  if (auth.authenticator().ready !== undefined)
    return `${made}Test them with: batharon sign-in ${api}${deployment === undefined ? '' : ` --at ${deployment}`}`;
  if (names.length === 0) return 'Check auth in batharon.yaml.';
  return `${made}To set a new one: batharon secrets set ${names[0]}`;
}

/** A 403 to a credential: it is known to the server, and does not allow this (RFC 9110 section 15.5.4, RFC 6750 section 3.1). */
export function notAllowed(
  step: CallStep,
  auth: Auth,
  endpoint: Endpoint | undefined,
  challenge: string | undefined,
  answer: Reply | undefined,
): ProblemRecord {
  const where = endpoint ? endpointWords(endpoint) : '';
  const wanted = challengesOf(challenge).find(({ parameters }) => parameters['scope'] !== undefined)?.parameters[
    'scope'
  ];
  const asked = wanted === undefined ? '' : `, and asks for the scope "${wanted}"`;
  const message = `${where} answered 403: the ${auth.scheme} credentials do not allow this${asked}`;
  const names = secretsOf(auth);
  const advice =
    auth.authenticator().ready === undefined
      ? `Check what ${names.join(' and ') || 'the credential'} may do at the server.`
      : `Add the scope under auth in batharon.yaml, or ask for what ${names.join(' and ') || 'the client'} may do at the server.`;
  return withReply(problemOf(step, 'not-authorized', message, advice), answer);
}

function withReply(problem: ProblemRecord, answer: Reply | undefined): ProblemRecord {
  return answer ? { ...problem, reply: answer } : problem;
}

/** What is odd about a secret, in words that show nothing of it. */
function oddities(name: string, value: unknown, scheme: string): readonly string[] {
  if (typeof value !== 'string') return [];
  const isBearer = scheme === 'bearer' && /^Bearer\b/i.test(value);
  return [
    ...(value === '' ? [`${name} is empty`] : []),
    ...(/[\r\n]$/.test(value) ? [`${name} ends with a line break`] : []),
    ...(/^[ \t]|[ \t]$/.test(value)
      ? [`${name} has a space at its ${/^[ \t]/.test(value) ? 'beginning' : 'end'}`]
      : []),
    ...(/^(["']).*\1$/s.test(value) ? [`${name} has quotes around it`] : []),
    ...(isBearer ? [`${name} begins with "Bearer", which is then sent twice`] : []),
  ];
}

/** Why it was not sent again, where it was to be. */
export function whyNotAgain(step: CallStep, address: string, decision: Decision | undefined): readonly EventBody[] {
  if (!decision || !('not' in decision)) return [];
  const { source } = step.request.line!;
  const note = (message: string): EventBody => ({
    type: 'note',
    code: 'not-sent-again',
    level: 'warning',
    message,
    step: address,
    source: placeOf(source),
  });
  const { method } = step.request.line!;
  if (decision.not === 'repeatable') {
    const advice = 'add an idempotency-key, or repeatable: true if it only reads';
    return [note(`${step.name} was not sent again: it may have arrived, and ${method} is not repeatable; ${advice}`)];
  }
  if (decision.not !== 'so-long') return [];
  const asked = spent(decision.retryAfterMs);
  return [note(`${step.name} was not sent again: the server asked to wait ${asked}, which is longer than max-wait`)];
}

/** Who set the limit that was reached, and what changes it. */
function limitWords({ timeouts }: CallStep, endpoint: Endpoint | undefined, limit: Limit): string {
  const own = timeouts ?? endpoint?.timeouts;
  const isSaid = own?.said?.includes(limit) ?? false;
  if (!isSaid) return `This is the default of ${limit}. For another one: timeout: {${limit}: 2m}.`;
  const where = timeouts ? 'the call' : `the API ${endpoint!.api}, in batharon.yaml`;
  return `The limit is that of "timeout" (${limit}) of ${where}.`;
}

export function brokenProblem(step: CallStep, endpoint: Endpoint | undefined, broken: Broken): ProblemRecord {
  const { code, message, phase, reached, limit } = broken;
  const advice = {
    'no-connection':
      phase === 'lookup' || phase === 'connect'
        ? 'Check that the server is running and that the url of the API is right.'
        : certificateAdvice(broken.cause, endpoint),
    'timed-out': limit && limitWords(step, endpoint, limit),
    'body-too-big': 'Increase max-body, or save the body to a file with save.',
    'not-decodable': undefined,
    'not-writable': undefined,
    'over-limit': undefined,
  }[code];
  const doubt =
    reached === 'maybe' && !mayRepeat(step)
      ? 'The server may have processed it; check before sending it again.'
      : undefined;
  const advices = [advice, doubt].filter((each) => each !== undefined).join(' ');
  return problemOf(step, code, message, advices);
}

/** Causes by which a server's certificate was not accepted, and what to do about each. */
const CERTIFICATE_ADVICE: Readonly<Record<string, string>> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: 'Trust it: tls: {ca: FILE}',
  SELF_SIGNED_CERT_IN_CHAIN: 'Trust its authority: tls: {ca: FILE}',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'Trust its authority: tls: {ca: FILE}',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'Trust its authority: tls: {ca: FILE}',
  ERR_TLS_CERT_ALTNAME_INVALID: 'Write one of its names as the host in url',
};

function certificateAdvice(cause: string, endpoint: Endpoint | undefined): string | undefined {
  const advice = CERTIFICATE_ADVICE[cause];
  if (advice === undefined || !endpoint) return advice && `${advice}, under an API in batharon.yaml.`;
  const { api, url, connection } = endpoint;
  const { file, line } = placeOf((connection.ca ?? url).source);
  const trusted =
    connection.ca && cause !== 'ERR_TLS_CERT_ALTNAME_INVALID'
      ? ` that signed it; ${connection.ca.source.text.trim()} did not`
      : '';
  return `${advice}${trusted}, under ${api} (${file}:${line}).`;
}

export function undecodable(step: CallStep, decoded: Extract<Decoded, { problem: object }>): ProblemRecord {
  const { text = '', problem } = decoded;
  const form = formOfText(text);
  const advice = problem.advice ?? (form === decoded.as ? undefined : readAsAdvice(form));
  const { code, message } = problem;
  const answer = reply('body', shortened(pageText(text).trim()));
  return { ...problemOf(step, code, message, advice), ...(answer ? { reply: answer } : {}) };
}

/** A problem of a call as a whole, told at its request line. */
export function problemOf(
  step: CallStep,
  code: Parameters<typeof diagnosticIn>[1]['code'],
  message: string,
  advice?: string,
): ProblemRecord {
  const { source } = step.request.line!;
  const range = wholeOf(source);
  return problemRecord(diagnosticIn(source, { code, range, message, ...(advice ? { advice } : {}) }));
}
