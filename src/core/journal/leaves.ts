import { pointerPart } from '../value/json-pointer.ts';
import type { Json } from '../value/value.ts';

/** What holds nothing further. */
export type Leaf = string | number | boolean | null;

/**
 * Puts the leaves of a value behind others, in the order in which those of `like` come. False where it is not built as that
 * is: with the same members, arrays as long, and leaves of the same types.
 */
export function addLeaves(value: Json | undefined, like: Json, leaves: Leaf[]): boolean {
  if (value === undefined) return false;
  if (typeof like !== 'object' || like === null) {
    if (typeof value !== typeof like || (value === null) !== (like === null)) return false;
    leaves.push(value as Leaf);
    return true;
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value) !== Array.isArray(like)) return false;
  return Array.isArray(like)
    ? addItems(value as Json[], like, leaves)
    : addMembers(value as { [name: string]: Json }, like, leaves);
}

function addItems(value: readonly Json[], like: readonly Json[], leaves: Leaf[]): boolean {
  if (value.length !== like.length) return false;
  for (let i = 0; i < like.length; i++) if (!addLeaves(value[i], like[i]!, leaves)) return false;
  return true;
}

function addMembers(value: { [name: string]: Json }, like: { [name: string]: Json }, leaves: Leaf[]): boolean {
  let more = 0;
  for (const _name in value) more++;
  for (const name in like) {
    if (!addLeaves(value[name], like[name]!, leaves)) return false;
    more--;
  }
  return more === 0;
}

/** Where the leaves of a value stand, as JSON Pointers (RFC 6901), in the order of `addLeaves`. */
export function leafPointers(value: Json, at = ''): string[] {
  if (typeof value !== 'object' || value === null) return [at];
  return Object.entries(value).flatMap(([name, member]) => leafPointers(member, at + pointerPart(name)));
}

/** How a value is put together from values to come: what never differs is one value. */
export type Plan =
  | Readonly<{ same: Json }>
  | Readonly<{ slot: number }>
  | Readonly<{ items: readonly Plan[] }>
  | Readonly<{ members: readonly (readonly [name: string, plan: Plan])[] }>;

/** The plan of values that are like this one but for the leaves at some pointers, which come in the order of those. */
export function planOf(value: Json, slots: ReadonlyMap<string, number>, at = ''): Plan {
  const slot = slots.get(at);
  if (slot !== undefined) return { slot };
  if (typeof value !== 'object' || value === null) return { same: value };
  const members = Object.entries(value).map(
    ([name, member]) => [name, planOf(member, slots, at + pointerPart(name))] as const,
  );
  if (members.every(([, plan]) => 'same' in plan)) return { same: value };
  return Array.isArray(value) ? { items: members.map(([, plan]) => plan) } : { members };
}

/** The value that a plan gives with these values, which begin at an index. */
export function builtBy(plan: Plan, values: readonly Json[], from: number): Json {
  if ('same' in plan) return plan.same;
  if ('slot' in plan) return values[from + plan.slot]!;
  if ('items' in plan) return plan.items.map((each) => builtBy(each, values, from));
  const built: { [name: string]: Json } = {};
  for (const [name, each] of plan.members) built[name] = builtBy(each, values, from);
  return built;
}
