import { isList, isObject, NonJsonValue, type Value } from '../value/value.ts';
import { escaped, writtenKey, writtenPath } from './normalized.ts';

/** A place where a text was found, and the ways to get to it. */
export type Hit = Readonly<{
  keys: readonly (string | number)[];
  value: Value;
  /** How well it fits: the whole value, the whole name of a member, a part of a value, a part of a name. */
  rank: 0 | 1 | 2 | 3;
}>;

/** Paths that lead to a hit. */
type Proposal = Readonly<{
  /** `$.berths[2].depth` */
  exact: string;
  /** `$.berths[*].depth`: the same over all items; absent when there is no list on the way. */
  all: string | undefined;
  /** `$.berths[?@.id == 'N3'].depth`: by what tells the item from the others; absent when nothing does. */
  byField: string | undefined;
}>;

/** Hits that are gathered, at most; beyond them only the count goes on. */
const MAX_HITS = 20_000;

export type Search = Readonly<{ hits: readonly Hit[]; count: number }>;

/**
 * Searches a value for a text: in texts and names of members whatever their case, in numbers and the like as a whole.
 * Best fits come first, then those that stand first. A stack of its own, so that depth costs memory only.
 */
export function search(root: Value, wanted: string): Search {
  const rank = rankingOf(wanted);
  const found: Hit[] = [];
  let count = 0;
  const look = (value: Value, key: string | number, parent: Container | undefined): void => {
    const fits = rank(value, key);
    if (fits === undefined) return;
    count++;
    if (found.length < MAX_HITS || fits < 2) found.push({ keys: keysOf(parent, key), value, rank: fits });
  };
  if (!isContainer(root)) look(root, 0, undefined);
  // Only lists and objects reach the stack: most of a response are the scalars in them.
  const stack: Container[] = isContainer(root) ? [{ value: root, key: '', parent: undefined }] : [];
  while (stack.length > 0) {
    const container = stack.pop()!;
    const { value } = container;
    const from = stack.length;
    if (isList(value)) {
      for (let i = 0; i < value.length; i++) {
        const item = value[i]!;
        if (isContainer(item)) stack.push({ value: item, key: i, parent: container });
        else look(item, i, container);
      }
    } else {
      const members = value as Readonly<Record<string, Value>>;
      // Nothing enumerable is inherited, and going through the names so makes no list of them.
      for (const name in members) {
        const member = members[name]!;
        look(member, name, container);
        if (isContainer(member)) stack.push({ value: member, key: name, parent: container });
      }
    }
    if (stack.length - from > 1) reverseFrom(stack, from);
  }
  const order = found.map((hit, i) => ({ hit, i }));
  order.sort((a, b) => a.hit.rank - b.hit.rank || a.i - b.i);
  return { hits: order.slice(0, MAX_HITS).map(({ hit }) => hit), count };
}

/** A list or an object, and how it is reached. */
type Container = Readonly<{ value: Value; key: string | number; parent: Container | undefined }>;

function isContainer(value: Value): boolean {
  return typeof value === 'object' && value !== null && !(value instanceof NonJsonValue);
}

/** The first child is to be visited first, so it must lie on top. */
function reverseFrom(stack: Container[], from: number): void {
  for (let low = from, high = stack.length - 1; low < high; low++, high--) {
    [stack[low], stack[high]] = [stack[high]!, stack[low]!];
  }
}

function keysOf(parent: Container | undefined, key: string | number): readonly (string | number)[] {
  if (parent === undefined) return [];
  const keys = [key];
  for (let at = parent; at.parent !== undefined; at = at.parent) keys.push(at.key);
  return keys.reverse();
}

/** How well a value under a key fits what is wanted, if it does. */
function rankingOf(wanted: string): (value: Value, key: string | number) => Hit['rank'] | undefined {
  const part = new RegExp(wanted.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&'), 'i');
  // A member's name comes again and again: each is tested once.
  const names = new Map<string, Hit['rank'] | 'no'>();
  const rankOfName = (name: string): Hit['rank'] | undefined => {
    let known = names.get(name);
    if (known === undefined) names.set(name, (known = name === wanted ? 1 : part.test(name) ? 3 : 'no'));
    return known === 'no' ? undefined : known;
  };
  return (value, key) => {
    if (typeof value === 'string') {
      if (value === wanted) return 0;
      if (value.length > wanted.length - 1 && part.test(value)) return key === wanted ? 1 : 2;
    } else if (!isContainer(value)) {
      if (String((value as { text?: string } | null)?.text ?? value) === wanted) return 0;
    }
    return typeof key === 'string' ? rankOfName(key) : undefined;
  };
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
