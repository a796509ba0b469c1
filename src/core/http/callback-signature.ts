import { crypto } from '../packages.ts';
import { fromBase64, fromHex } from '../value/base64.ts';
import { present } from '../value/present.ts';
import { spent } from '../value/show.ts';
import { kindOfText } from '../value/text-kind.ts';
import { headerOf, type Header } from './message.ts';

export const HMAC_ALGORITHMS = ['sha256', 'sha512', 'sha384', 'sha1'] as const;
export const SIGNATURE_ENCODINGS = ['hex', 'base64'] as const;
export const KEY_ENCODINGS = ['text', 'base64', 'hex'] as const;

/** How a signature is computed (RFC 2104) and written. */
type Form = Readonly<{
  hmac: (typeof HMAC_ALGORITHMS)[number];
  encoding: (typeof SIGNATURE_ENCODINGS)[number];
  'key-encoding': (typeof KEY_ENCODINGS)[number];
}>;

/** What is expected of the signature of a request that was received. */
export type ExpectedSignature = Form &
  Readonly<{
    /** Any of them serves, so that a key can be changed while requests are under way. */
    keys: readonly string[];
    header: string;
    /** The parameter of the header that has the signature, in `t=1, v=abc`; the whole header without it. */
    parameter: string | undefined;
    prefix: string;
    message: Uint8Array;
    /** When it was signed and how long that may be ago, in milliseconds. */
    signedAt: Readonly<{ timeMs: number; nowMs: number; toleranceMs: number }> | undefined;
  }>;

type Mismatch = Readonly<{ message: string; advice?: string }>;

/** Bytes of a digest. */
const LENGTHS: Readonly<Record<Form['hmac'], number>> = { sha256: 32, sha512: 64, sha384: 48, sha1: 20 };

/**
 * Why a received request does not have the signature that is expected; nothing when it has. Compared in constant time, over
 * the exact bytes. The value of the signature and the keys are in no message.
 */
export function signatureMismatch(
  expected: ExpectedSignature,
  headers: readonly Header[],
  raw: Uint8Array,
): Mismatch | undefined {
  const { header, parameter } = expected;
  const field = headerOf(headers, header);
  if (field === undefined) return { message: `The request has no header ${header}`, advice: sentInstead(headers) };
  const found = parameter === undefined ? [field.trim()] : valuesOf(field, parameter);
  if (found.length === 0) {
    const message = `The header ${header} has no parameter ${parameter}`;
    return { message, advice: `Its parameters are ${namesIn(field).join(', ') || 'none'}.` };
  }
  const written = found
    .filter((each) => each.startsWith(expected.prefix))
    .map((each) => each.slice(expected.prefix.length));
  if (written.length === 0) return withoutPrefix(expected, found[0]!);
  if (!written.some((each) => isSignature(each, expected, expected.message)))
    return explained(expected, written[0]!, raw);
  return expected.signedAt && tooOld(expected.signedAt);
}

/** Whether one of the keys makes the signature. */
function isSignature(written: string, { keys, ...form }: Form & Pick<ExpectedSignature, 'keys'>, message: Uint8Array) {
  const bytes = decoded(written, form.encoding);
  if (bytes?.length !== LENGTHS[form.hmac]) return false;
  const { createHmac, timingSafeEqual } = crypto();
  // All keys are tried, so that the time does not tell which one fits.
  return keys
    .map((key) => decodedKey(key, form['key-encoding']))
    .map((key) => key !== undefined && timingSafeEqual(createHmac(form.hmac, key).update(message).digest(), bytes))
    .includes(true);
}

function decoded(text: string, encoding: Form['encoding']): Uint8Array | undefined {
  return encoding === 'hex' ? fromHex(text) : fromBase64(text);
}

function decodedKey(key: string, encoding: Form['key-encoding']): Uint8Array | undefined {
  if (encoding === 'text') return new TextEncoder().encode(key);
  return decoded(key, encoding);
}

/** The values of one parameter, in order: `t=1,v=abc,v=def` has two of v. */
function valuesOf(field: string, parameter: string): readonly string[] {
  return pairsIn(field).flatMap(([name, value]) => (name.toLowerCase() === parameter.toLowerCase() ? [value] : []));
}

function namesIn(field: string): readonly string[] {
  return [...new Set(pairsIn(field).map(([name]) => name))];
}

function pairsIn(field: string): readonly (readonly [name: string, value: string])[] {
  return [...field.matchAll(/([\w-]+)=("?)([^",;\s]*)\2/g)].map(([, name, , value]) => [name!, value!] as const);
}

/** Headers that look as if the signature were in them. */
function sentInstead(headers: readonly Header[]): string {
  const close = headers.map(([name]) => name).filter((name) => /sign|hmac|digest/i.test(name));
  return close.length > 0 ? `It has ${close.join(', ')}.` : 'No header of it looks like a signature.';
}

function withoutPrefix({ header, prefix }: ExpectedSignature, found: string): Mismatch {
  const message = `The header ${header} is ${kindOfText(found)}, and does not begin with the prefix "${prefix}"`;
  return { message, advice: 'Write the prefix that it has, or remove prefix.' };
}

function tooOld({ timeMs, nowMs, toleranceMs }: NonNullable<ExpectedSignature['signedAt']>): Mismatch | undefined {
  const ago = nowMs - timeMs;
  if (Math.abs(ago) <= toleranceMs) return undefined;
  const when = ago > 0 ? `${spent(ago)} ago` : `${spent(-ago)} in the future`;
  const advice = 'It may be sent again by somebody else, or one of the clocks is wrong.';
  return { message: `The request was signed ${when}, and the tolerance is ${spent(toleranceMs)}`, advice };
}

/** What is odd about a signature that does not fit: another form that would fit, else its length and alphabet. */
function explained(expected: ExpectedSignature, written: string, raw: Uint8Array): Mismatch {
  const { hmac, encoding } = expected;
  const other = fitting(expected, written, raw);
  if (other) return { message: 'The signature does not fit as it is computed here', advice: `It fits with ${other}.` };
  const kind = kindOfText(written);
  const length = decoded(written, encoding)?.length;
  if (length === undefined) return { message: `The signature is ${kind}, which is not ${encoding}`, ...UNKNOWN };
  if (length !== LENGTHS[hmac]) {
    const fits = HMAC_ALGORITHMS.find((each) => LENGTHS[each] === length);
    const message = `The signature is ${kind}, which is ${length} bytes; ${hmac} makes ${LENGTHS[hmac]}`;
    return { message, advice: fits ? `So many are made by ${fits}, but not with this key.` : UNKNOWN.advice };
  }
  const keys = expected.keys.length === 1 ? 'the key' : `any of the ${expected.keys.length} keys`;
  return { message: `The signature, ${kind}, was not made with ${keys} over these bytes`, ...UNKNOWN };
}

const UNKNOWN = { advice: 'The key is another one, or something other than this is signed.' };

/** Another common form in which the signature fits, in the words of the keys. */
function fitting(expected: ExpectedSignature, written: string, raw: Uint8Array): string | undefined {
  for (const [what, message] of messagesOf(expected, raw))
    for (const hmac of HMAC_ALGORITHMS)
      for (const encoding of SIGNATURE_ENCODINGS)
        for (const keyEncoding of KEY_ENCODINGS) {
          const form = { keys: expected.keys, hmac, encoding, 'key-encoding': keyEncoding };
          if (!isSignature(written, form, message)) continue;
          const differing = (['hmac', 'encoding', 'key-encoding'] as const).filter(
            (key) => form[key] !== expected[key],
          );
          return [...differing.map((key) => `${key}: ${form[key]}`), ...(what === '' ? [] : [what])].join(' and ');
        }
  return undefined;
}

/** What is often signed, beside what is said to be. */
function messagesOf(
  { message, signedAt }: ExpectedSignature,
  raw: Uint8Array,
): readonly (readonly [string, Uint8Array])[] {
  const text = new TextDecoder().decode(raw);
  const seconds = signedAt && String(Math.round(signedAt.timeMs / 1000));
  const variants = present({
    'message: [raw]': text,
    'the body without its last line break': text.replace(/\r?\n$/, ''),
    'the body with a line break at its end': `${text}\n`,
    'the body as JSON without blanks': compact(text),
    "message: [TIME, '.', raw]": seconds && `${seconds}.${text}`,
    "message: [TIME, ':', raw]": seconds && `${seconds}:${text}`,
    'message: [TIME, raw]': seconds && `${seconds}${text}`,
  });
  return [
    ['', message],
    ...Object.entries(variants).map(([what, each]) => [what, new TextEncoder().encode(each)] as const),
  ];
}

function compact(text: string): string | undefined {
  try {
    return JSON.stringify(JSON.parse(text));
  } catch {
    return undefined;
  }
}
