import { readJson } from '../value/json-read.ts';
import { writeJson } from '../value/json-write.ts';
import { isNumber, numberText } from '../value/numbers.ts';
import { isList, isObject, type Value } from '../value/value.ts';

/** A JSON text as a value; nothing where writing it again would give another text, white space aside. */
export function faithfulJson(text: string): Value | undefined {
  const json = readJson(text);
  return json.ok && writeJson(json.value) === withoutBlanks(text) ? json.value : undefined;
}

/** A JSON text without the blanks between its signs. */
function withoutBlanks(text: string): string {
  return text.replace(/"(?:[^"\\]|\\.)*"|\s+|\ufeff/g, (found) => (found.startsWith('"') ? found : ''));
}

type Keys = readonly (string | number)[];

/** A value with its texts and numbers as `change` gives them; the rest stays. */
export function withScalars(
  value: Value,
  change: (scalar: string | number, text: string, keys: Keys) => string | undefined,
  keys: Keys = [],
): Value {
  if (isList(value)) return value.map((item, i) => withScalars(item, change, [...keys, i]));
  if (isObject(value))
    return Object.fromEntries(
      Object.entries(value).map(([name, member]) => [name, withScalars(member, change, [...keys, name])]),
    );
  if (typeof value === 'string') return change(value, value, keys) ?? value;
  return isNumber(value) ? (change(0, numberText(value), keys) ?? value) : value;
}

/** The texts and numbers of a value with their places, in order. */
export function* scalarsOf(value: unknown, keys: Keys = []): Generator<readonly [text: string, keys: Keys]> {
  if (Array.isArray(value)) for (const [i, item] of value.entries()) yield* scalarsOf(item, [...keys, i]);
  else if (typeof value === 'object' && value !== null)
    for (const [name, member] of Object.entries(value)) yield* scalarsOf(member, [...keys, name]);
  else if (typeof value === 'string' || typeof value === 'number') yield [String(value), keys];
}
