import { isList, isObject, Special, type Value } from '../value/value.ts';
import { escaped, writtenKey, writtenPath } from './normalized.ts';

/** A place where a text was found, and the ways to get to it. */
export type Hit = Readonly<{
  keys: readonly (string | number)[];
  value: Value;
  /** How well it fits: the whole value, the whole name of a member, a part of a value, a part of a name. */
  rank: 0 | 1 | 2 | 3;
}>;

/** Paths that lead to a hit. */
export type Proposal = Readonly<{
  /** `$.berths[2].depth` */
  exact: string;
  /** `$.berths[*].depth`: the same over all items; absent when there is no list on the way. */
  all: string | undefined;
  /** `$.berths[?@.id == 'N3'].depth`: by what tells the item from the others; absent when nothing does. */
  byField: string | undefined;
}>;

/** Hits that are gathered, at most; beyond them only the count goes on. */
const MAX_HITS = 1000;

export type Search = Readonly<{ hits: readonly Hit[]; count: number }>;

/**
 * Searches a value for a text: in texts and names of members whatever their case, in numbers and the like as a whole.
 * Best fits come first, then those that stand first. A stack of its own, so that depth costs memory only.
 */
export function search(root: Value, wanted: string): Search {
  const lower = wanted.toLowerCase();
  const found: Hit[] = [];
  let count = 0;
  type Entry = { value: Value; key: string | number; parent: Entry | undefined };
  const stack: Entry[] = [{ value: root, key: '', parent: undefined }];
  while (stack.length > 0) {
    const entry = stack.pop()!;
    const { value } = entry;
    const rank =
      entry.parent === undefined && typeof value === 'object' ? undefined : rankOf(value, entry.key, wanted, lower);
    if (rank !== undefined) {
      count++;
      if (found.length < MAX_HITS || rank < 2) found.push({ keys: keysOf(entry), value, rank });
    }
    if (typeof value !== 'object' || value === null || value instanceof Special) continue;
    if (isList(value)) {
      for (let i = value.length - 1; i >= 0; i--) stack.push({ value: value[i]!, key: i, parent: entry });
    } else {
      const names = Object.keys(value);
      for (let i = names.length - 1; i >= 0; i--) {
        stack.push({ value: (value as Readonly<Record<string, Value>>)[names[i]!]!, key: names[i]!, parent: entry });
      }
    }
  }
  const hits = found
    .map((hit, i) => ({ hit, i }))
    .sort((a, b) => a.hit.rank - b.hit.rank || a.i - b.i)
    .map(({ hit }) => hit);
  return { hits: hits.slice(0, MAX_HITS), count };

  function keysOf(entry: Entry): readonly (string | number)[] {
    const keys: (string | number)[] = [];
    for (let at = entry; at.parent !== undefined; at = at.parent) keys.push(at.key);
    return keys.reverse();
  }
}

function rankOf(value: Value, key: string | number, wanted: string, lower: string): Hit['rank'] | undefined {
  if (typeof value === 'string') {
    if (value === wanted) return 0;
    if (value.length >= wanted.length && value.toLowerCase().includes(lower))
      return typeof key === 'string' && key === wanted ? 1 : 2;
  } else if (typeof value !== 'object' || value === null || value instanceof Special) {
    if (String((value as { text?: string } | null)?.text ?? value) === wanted) return 0;
  }
  if (typeof key !== 'string') return undefined;
  if (key === wanted) return 1;
  return key.toLowerCase().includes(lower) ? 3 : undefined;
}

/** The paths to a hit. */
export function propose(root: Value, { keys }: Hit): Proposal {
  const hasList = keys.some((key) => typeof key === 'number');
  const all = hasList
    ? keys.reduce<string>((path, key) => path + (typeof key === 'number' ? '[*]' : writtenKey(key)), '$')
    : undefined;
  return { exact: writtenPath(keys), all, byField: byField(root, keys) };
}

/** Names by which things are told apart, before all others. */
const TELLING = ['id', 'key', 'code', 'name', 'slug', 'type', 'kind', 'title'];

/** The path with each index replaced by a filter on a field that only that item has so. */
function byField(root: Value, keys: readonly (string | number)[]): string | undefined {
  let at: Value | undefined = root;
  let path = '$';
  let replaced = false;
  for (const [i, key] of keys.entries()) {
    if (typeof key === 'number' && isList(at)) {
      const field = tellingField(at, key, keys[i + 1]);
      if (field === undefined) return undefined;
      path += `[?@${writtenKey(field.name)} == ${literal(field.value)}]`;
      replaced = true;
      at = at[key];
    } else {
      path += writtenKey(key);
      at = isObject(at) ? at[key as string] : undefined;
    }
  }
  return replaced ? path : undefined;
}

/** A member with a plain value that no other item of the list has; not the one that the path asks for. */
function tellingField(
  list: readonly Value[],
  index: number,
  asked: string | number | undefined,
): { name: string; value: string | number | boolean } | undefined {
  const item = list[index];
  if (!isObject(item)) return undefined;
  const names = Object.keys(item).filter((name) => name !== asked);
  const ordered = [
    ...names.filter((name) => TELLING.includes(name.toLowerCase())),
    ...names.filter((name) => /id$/i.test(name)),
    ...names,
  ];
  for (const name of ordered) {
    const value = item[name];
    if (typeof value !== 'string' && typeof value !== 'number' && typeof value !== 'boolean') continue;
    if (list.filter((other) => isObject(other) && other[name] === value).length === 1) return { name, value };
  }
  return undefined;
}

function literal(value: string | number | boolean): string {
  return typeof value === 'string' ? `'${escaped(value)}'` : String(value);
}

/** A name to keep a hit under: that of its member, as names are written. */
export function nameFor({ keys }: Hit): string {
  const last = keys.findLast((key) => typeof key === 'string') ?? 'value';
  const name = String(last)
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .replace(/[^A-Za-z0-9_\u0080-\uffff]+/g, '_')
    .toLowerCase();
  return name.replace(/^(?=\d)/, '_') || 'value';
}
