import { ExactNumber, isList, isObject, NonJsonValue, type Value } from './value.ts';
import { writeJson } from './json-write.ts';

/** A value as plain JavaScript data, for packages that know nothing of ours: numbers as doubles, the rest as its JSON form. */
export function toPlain(value: Value): unknown {
  if (value instanceof ExactNumber) return Number(value.number);
  if (typeof value === 'bigint') return Number(value);
  if (value instanceof NonJsonValue) return JSON.parse(writeJson(value)) as unknown;
  if (isList(value)) return value.map(toPlain);
  if (!isObject(value)) return value;
  // Members are defined one by one: `__proto__` is a member like any other.
  return Object.fromEntries(Object.entries(value).map(([name, member]) => [name, toPlain(member)]));
}
