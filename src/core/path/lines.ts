import { isList, isObject, type Value } from '../value/value.ts';
import { writtenPath } from './normalized.ts';

/** A line of a body as it is shown in JSON: a value that holds no others, or the beginning of one that does. */
export type LineOfBody = Readonly<{ path: string; value: Value }>;

/** Values of a body in order, each with its path: those that hold no others, and lists and objects that are empty. */
export function pathsIn(body: Value): readonly LineOfBody[] {
  const lines: LineOfBody[] = [];
  // A stack of its own, so that depth costs memory only.
  const waiting: { keys: readonly (string | number)[]; value: Value }[] = [{ keys: [], value: body }];
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const { keys, value } = next;
    const children: readonly (readonly [string | number, Value])[] = isList(value)
      ? value.map((item, i) => [i, item] as const)
      : isObject(value)
        ? Object.entries(value)
        : [];
    if (children.length === 0) lines.push({ path: writtenPath(keys), value });
    for (const [key, child] of [...children].reverse()) waiting.push({ keys: [...keys, key], value: child });
  }
  return lines;
}
