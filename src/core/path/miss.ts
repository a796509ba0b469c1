import { isList, isObject, type Value } from '../value/value.ts';
import { aType, counted, nameList } from '../value/show.ts';
import { nearest } from '../diagnostics/suggest.ts';
import { keysOf, writtenKey, writtenPath } from './normalized.ts';
import type { Located } from './evaluate.ts';
import type { Segment } from './model.ts';

/** How far a path got before it found nothing, and what was there instead. */
type Miss = Readonly<{
  /** Number of segments that matched. */
  matched: number;
  /** What was there, in words: `$.job is an object with id and state`. */
  there: string;
  /** The path of the nearest thing that exists, when one is near. */
  nearest?: string;
}>;

/**
 * Explains why a path found nothing in a value. `locate` evaluates a number of the path's first segments. `start` is
 * how the path begins in words (`$`, or a name).
 */
export function explainMiss<F>(
  start: string,
  root: Value,
  segments: readonly Segment<F>[],
  locate: (segments: readonly Segment<F>[]) => readonly Located[],
): Miss {
  let matched = segments.length - 1;
  let nodes = locate(segments.slice(0, matched));
  while (nodes.length === 0 && matched > 0) nodes = locate(segments.slice(0, --matched));
  const node = nodes[0]!;
  const at = writtenPath(keysOf(node), start);
  const many = nodes.length > 1 ? ` (and ${counted(nodes.length - 1, 'more place')})` : '';
  const last = segments.at(-1)!;
  const near =
    nearestTo(segments[matched]!, node, start) ??
    elsewhere(segments[matched]!, root, start) ??
    elsewhere(last, root, start);
  return {
    matched,
    there: `${at} is ${describe(node.value)}${many}`,
    ...(near === undefined ? {} : { nearest: near }),
  };
}

function describe(value: Value): string {
  if (isObject(value)) {
    const names = Object.keys(value);
    return names.length === 0 ? 'an empty object' : `an object with ${nameList(names)}`;
  }
  if (isList(value)) return value.length === 0 ? 'an empty array' : `an array of ${counted(value.length, 'item')}`;
  return value === null ? 'null' : `${aType(value)}`;
}

/** A member of the node where the path stopped whose name is close to the wanted one. */
function nearestTo<F>(segment: Segment<F>, node: Located, start: string): string | undefined {
  const selector = segment.selectors[0]!;
  const keys = keysOf(node);
  if (selector.kind === 'name' && isObject(node.value)) {
    const name = nearest(selector.name, Object.keys(node.value));
    return name === undefined ? undefined : writtenPath([...keys, name], start);
  }
  if (selector.kind === 'name' && isList(node.value) && node.value.length > 0) {
    const inFirst = isObject(node.value[0]) && Object.hasOwn(node.value[0], selector.name);
    return inFirst ? `${writtenPath(keys, start)}[*]${writtenKey(selector.name)}` : undefined;
  }
  return undefined;
}

/** The same name somewhere else in the document, nearest to the root; looks at a bounded number of nodes. */
function elsewhere<F>(segment: Segment<F>, root: Value, start: string): string | undefined {
  const selector = segment.selectors[0]!;
  if (selector.kind !== 'name') return undefined;
  let level: Located[] = [{ value: root, key: '', parent: undefined }];
  for (let seen = 0; level.length > 0 && seen < 10_000;) {
    const next: Located[] = [];
    for (const parent of level) {
      seen++;
      if (isObject(parent.value)) {
        if (Object.hasOwn(parent.value, selector.name)) {
          return writtenPath([...keysOf(parent), selector.name], start);
        }
        for (const [key, value] of Object.entries(parent.value)) next.push({ value, key, parent });
      } else if (isList(parent.value) && parent.value.length > 0) {
        next.push({ value: parent.value[0]!, key: 0, parent });
      }
    }
    level = next;
  }
  return undefined;
}
