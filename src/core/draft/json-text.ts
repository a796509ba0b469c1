import { readJson } from '../value/json-read.ts';
import { writeJson } from '../value/json-write.ts';
import { isNumber, numberText } from '../value/numbers.ts';
import { isList, isObject, type Value } from '../value/value.ts';

/** A JSON text as a value; nothing where writing it again would give another text, white space aside. */
export function faithfulJson(text: string): Value | undefined {
  const json = readJson(text);
  return json.ok && writeJson(json.value) === withoutBlanks(text) ? json.value : undefined;
}

/** What a JSON text says, numbers as JavaScript has them; nothing where it is none. */
export function plainJson(text: string | undefined): unknown {
  try {
    return text === undefined ? undefined : JSON.parse(text);
  } catch {
    return undefined;
  }
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

/** Goes over the texts and numbers of a value in order. The keys are those of the place at hand, and must be copied to be kept. */
export function eachScalar(
  value: unknown,
  seen: (text: string, keys: readonly (string | number)[]) => void,
  keys: (string | number)[] = [],
): void {
  if (typeof value === 'string') seen(value, keys);
  else if (typeof value === 'number') seen(String(value), keys);
  else if (typeof value === 'object' && value !== null) {
    const at = keys.length;
    if (Array.isArray(value)) for (let i = 0; i < value.length; i++) inside(value[i], i);
    else for (const name in value) inside((value as Record<string, unknown>)[name], name);
    keys.length = at;
    function inside(member: unknown, key: string | number): void {
      keys[at] = key;
      eachScalar(member, seen, keys);
    }
  }
}
