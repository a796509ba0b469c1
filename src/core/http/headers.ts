import { isList, isObject, Mask, type Value } from '../value/value.ts';
import { textOf } from '../value/text.ts';
import { Members, type Maybe, type ObjectValue } from '../value/value.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { Header } from './message.ts';

/** Headers that the transport writes; a file cannot. */
const OWN_HEADERS: ReadonlySet<string> = new Set(['host', 'content-length', 'transfer-encoding', 'connection']);

/** Headers that ask for something of the connection that the transport does not do (RFC 9110 sections 7.6.1, 7.8, 10.1.1). */
const NOT_SENT: Readonly<Record<string, string>> = {
  expect: 'The body is sent with its headers, without waiting for 100 (Continue). Remove it.',
  'keep-alive': 'Connections are kept open and used again in any case. Remove it.',
  upgrade: 'HTTP/2 is used where a server offers it over TLS. Remove it.',
};

/** Why no request can have a header of this name (RFC 9110 section 5.1), if so. */
export function headerNameProblem(name: string): Readonly<{ message: string; advice: string }> | undefined {
  if (OWN_HEADERS.has(name.toLowerCase()))
    return { message: `The header "${name}" is set by batharon from the URL and the body`, advice: 'Remove it.' };
  const advice = NOT_SENT[name.toLowerCase()];
  if (advice !== undefined) return { message: `The header "${name}" cannot be sent`, advice };
  if (/^[!#$%&'*+\-.^_`|~0-9A-Za-z]+$/.test(name)) return undefined;
  return {
    message: `"${name}" is not a valid header name (RFC 9110 section 5.1)`,
    advice: 'Header names consist of letters, digits and characters such as - and _.',
  };
}

/** Headers whose values are masked whatever they are (semantics: masking, by name). */
export const SECRET_HEADERS: ReadonlySet<string> = new Set([
  'authorization',
  'proxy-authorization',
  'cookie',
  'set-cookie',
]);

/** The fields of a response: names know no case, and `_` stands for `-`. */
export class HeaderFields extends Members {
  private readonly fields = new Map<string, string>();

  constructor(headers: readonly Header[]) {
    super();
    for (const [name, value] of headers) {
      const key = name.toLowerCase();
      // Set-Cookie is not joined (RFC 9110 section 5.3); it is read through `cookies`.
      if (key === 'set-cookie') continue;
      const before = this.fields.get(key);
      this.fields.set(key, before === undefined ? value : `${before}, ${value}`);
    }
  }

  override member(name: string): Maybe {
    const key = name.toLowerCase();
    return this.fields.get(key) ?? this.fields.get(key.replaceAll('_', '-'));
  }

  override toObject(): ObjectValue {
    return Object.fromEntries(this.fields);
  }
}

/** The text of a header from a value, or what is wrong with it: no request can be split by one. */
export function headerText(value: Value, forRecord = false): string | Omit<Problem, 'range'> {
  if (value instanceof Mask) return value.toString();
  const text = isList(value) && !value.some((item) => isList(item) || isObject(item)) ? joined(value) : textOf(value);
  if (typeof text !== 'string') {
    return {
      code: 'invalid-value',
      message: `The value is ${text.what}, which cannot be part of a header`,
      advice: text.advice,
    };
  }
  const trimmed = text.replace(/^[ \t]+|[ \t]+$/g, '');
  const bad = /[\u0000-\u0008\u000a-\u001f\u007f]|[^\u0000-\u00ff]/.exec(trimmed);
  if (!bad || forRecord) return trimmed;
  const isBreak = bad[0] === '\r' || bad[0] === '\n';
  const character = `U+${bad[0].charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}`;
  return {
    code: 'invalid-value',
    message: `The value of this header has ${isBreak ? 'a line break' : `the character ${character}`}, which headers cannot have`,
    advice: isBreak
      ? 'Check where the value comes from; a secret from a file often ends with a line break.'
      : 'Encode it first, as the API documents it.',
  };
}

function joined(items: readonly Value[]): string {
  return items
    .map((item) => textOf(item))
    .filter((item) => typeof item === 'string')
    .join(', ');
}
