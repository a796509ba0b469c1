import { isNumber, numberText } from './numbers.ts';
import { nodeText, XmlNode } from './xml.ts';
import { Bytes, DateTime, Duration, isList, Mask, Members, type ObjectValue, type Value } from './value.ts';

/**
 * Writes a value as JSON text. Numbers stand in their source text, date-times as RFC 3339, a mask as the text that
 * stands for it. `indent` 0 gives one line. Durations and bytes have no JSON form: they are written as the text that
 * people read (`1.5s`, base64), which is only used where a value is shown, never in a request.
 */
export function writeJson(value: Value, indent = 0): string {
  if (isNumber(value)) return numberText(value);
  if (typeof value === 'string') return JSON.stringify(value);
  if (value instanceof DateTime) return JSON.stringify(dateTimeText(value));
  if (value instanceof Duration) return JSON.stringify(durationText(value));
  if (value instanceof Bytes) return JSON.stringify(base64Text(value.data));
  if (value instanceof XmlNode) return JSON.stringify(nodeText(value));
  if (value instanceof Mask) return JSON.stringify(value.toString());
  if (value instanceof Members) return writeObject(value.toObject(), indent);
  if (value === null || typeof value === 'boolean') return String(value);
  return isList(value)
    ? wrapped(
        '[',
        value.map((item) => writeJson(item, indent)),
        ']',
        indent,
      )
    : writeObject(value as ObjectValue, indent);
}

function writeObject(value: ObjectValue, indent: number): string {
  const gap = indent > 0 ? ' ' : '';
  const members = Object.keys(value).map((name) => `${JSON.stringify(name)}:${gap}${writeJson(value[name]!, indent)}`);
  return wrapped('{', members, '}', indent);
}

/** Puts already written parts between brackets, one line each and indented when asked for. */
export function wrapped(open: string, parts: readonly string[], close: string, indent: number): string {
  if (parts.length === 0) return open + close;
  if (indent === 0) return open + parts.join(',') + close;
  const pad = ' '.repeat(indent);
  return `${open}\n${parts.map((part) => pad + part.replaceAll('\n', `\n${pad}`)).join(',\n')}\n${close}`;
}

/** RFC 3339 in UTC, without a fraction when there is none. */
export function dateTimeText(value: DateTime): string {
  return new Date(value.epochMilliseconds).toISOString().replace('.000Z', 'Z');
}

/** Units of durations in milliseconds. */
export const MILLISECONDS: Readonly<Record<string, number>> = {
  ms: 1,
  s: 1000,
  m: 60_000,
  h: 3_600_000,
  d: 86_400_000,
};

const UNITS = (['d', 'h', 'm', 's'] as const).map((unit) => [unit, MILLISECONDS[unit]!] as const);

/** One number and the largest unit that leaves it whole, `1.5s` or `250ms` for what is below a minute. */
export function durationText({ milliseconds }: Duration): string {
  const size = Math.abs(milliseconds);
  const unit = UNITS.find(([, length]) => size >= length && (milliseconds % length === 0 || length === 1000));
  return unit ? `${milliseconds / unit[1]}${unit[0]}` : `${milliseconds}ms`;
}

export function base64Text(data: Uint8Array): string {
  let binary = '';
  for (let i = 0; i < data.length; i += 8192) binary += String.fromCharCode(...data.subarray(i, i + 8192));
  return btoa(binary);
}

/** In base64url without padding (RFC 4648 section 5). */
export function base64UrlText(data: Uint8Array): string {
  return base64Text(data).replaceAll('+', '-').replaceAll('/', '_').replace(/=+$/, '');
}
