import type { CallStep } from '../../chain/model.ts';
import { mayRepeat } from '../../chain/changes.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import type { Auth } from '../../http/auth/definition.ts';
import type { Decoded } from '../../http/decode.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { Broken } from '../../http/message.ts';
import type { Decision } from '../../pacing/retry.ts';
import { spent } from '../../value/show.ts';
import type { EventBody, ExpectRecord, ProblemRecord } from '../../journal/events.ts';
import { secretsInTexts } from '../../chain/secrets-asked.ts';
import { writeJson } from '../../value/json-write.ts';
import type { ObjectValue } from '../../value/value.ts';
import { placeOf, problemRecord } from '../places.ts';

/** Characters of a body that stand in for the server's own words. */
const MAX_SAID = 300;

/** The server's own words: what `error-message` finds, else the first lines of the body. */
export function serverWords(decoded: Decoded, endpoint: Endpoint | undefined, frame: Frame): string {
  const tree = endpoint?.errorMessage?.tree;
  const told = tree && evaluate(tree, frame).value;
  if (told !== undefined && told !== null) return shortened(typeof told === 'string' ? told : writeJson(told));
  return shortened(decoded.text?.trim().split('\n').slice(0, 5).join('\n') ?? '');
}

function shortened(words: string): string {
  return words.length > MAX_SAID ? `${words.slice(0, MAX_SAID)} …` : words;
}

/** The first expectation that failed, as the problem of its call. */
export function failedExpectation(expects: readonly ExpectRecord[], said: string): ProblemRecord {
  const first = expects.find(({ passed }) => !passed)!;
  return {
    code: first.code ?? 'expectation-false',
    message: first.message ?? `${first.text} does not hold`,
    ...(first.source ? { source: first.source } : {}),
    ...(said ? { said } : {}),
  };
}

/** A 401 to a credential: who asked, by which scheme, and what is odd about its secrets, without showing them. */
export function notAuthorized(
  step: CallStep,
  auth: Auth,
  endpoint: Endpoint | undefined,
  secrets: ObjectValue,
  said: string,
): ProblemRecord {
  const { api = '', deployment } = endpoint ?? {};
  const where = deployment === undefined ? api : `${api} at ${deployment}`;
  const names = [...new Set(secretsInTexts(auth.texts))];
  const odd = names.flatMap((name) => oddities(name, secrets[name], auth.scheme));
  const message = `${where} answered 401 to ${auth.scheme} credentials${odd.length > 0 ? `: ${odd.join('; ')}` : ''}`;
  const which = names.length === 0 ? '' : ` with ${names.join(', ')}`;
  const advice = `They were made${which}; try them alone with: batharon sign-in ${api}${deployment === undefined ? '' : ` --at ${deployment}`}`;
  return { ...problemOf(step, 'not-authorized', message, advice), ...(said ? { said } : {}) };
}

/** What is odd about a secret, in words that show nothing of it. */
function oddities(name: string, value: unknown, scheme: string): readonly string[] {
  if (typeof value !== 'string') return [];
  const isBearer = scheme === 'bearer' && /^Bearer\b/i.test(value);
  return [
    ...(value === '' ? [`${name} is empty`] : []),
    ...(/[\r\n]$/.test(value) ? [`${name} ends in a line break`] : []),
    ...(/^[ \t]|[ \t]$/.test(value)
      ? [`${name} has a blank at its ${/^[ \t]/.test(value) ? 'beginning' : 'end'}`]
      : []),
    ...(/^(["']).*\1$/s.test(value) ? [`${name} has quotes around it`] : []),
    ...(isBearer ? [`${name} begins with "Bearer", which is sent twice then`] : []),
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
    const advice = 'give it an idempotency-key, or say repeatable: true where it only asks';
    return [note(`${step.name} was not sent again: it may have arrived, and ${method} is not repeatable; ${advice}`)];
  }
  if (decision.not !== 'so-long') return [];
  const asked = spent(decision.retryAfterMs);
  return [
    note(`${step.name} was not sent again: the server asks to come back after ${asked}, and max-wait: allows less`),
  ];
}

export function brokenProblem(step: CallStep, { code, message, phase, reached }: Broken): ProblemRecord {
  const advice = {
    'no-connection':
      phase === 'lookup' || phase === 'connect' ? 'Is the server running, and is the url of the api right?' : undefined,
    'timed-out': 'The limit is set by timeout: of the call, the api or the deployment.',
    'body-too-big': 'Raise it with max-body:, or write the body to a file with save:.',
    'not-decodable': undefined,
    'over-limit': undefined,
  }[code];
  const doubt =
    reached === 'maybe' && !mayRepeat(step)
      ? 'The server may have acted on it; look before sending it again.'
      : undefined;
  const advices = [advice, doubt].filter((each) => each !== undefined).join(' ');
  return problemOf(step, code, message, advices);
}

export function undecodable(step: CallStep, decoded: Extract<Decoded, { problem: object }>): ProblemRecord {
  const { code, message, advice } = decoded.problem;
  const said = decoded.text?.slice(0, 200).trim();
  return { ...problemOf(step, code, message, advice), ...(said ? { said } : {}) };
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
