import type { FailureGroup } from '../journal/events.ts';
import { equalValues } from '../value/compare.ts';
import { showValue } from '../value/show.ts';
import { isList, isObject, memberOf, type Value } from '../value/value.ts';
import type { FailedStep } from './context.ts';

/** Failed items from which they are grouped, and members that are told of a group. */
const MANY = 4;
const MAX_COMMON = 3;
/** Ranges of items that are told. */
const MAX_RANGES = 8;

/**
 * Failures of a loop that are alike, the largest group first, with what their items have in common and at most half of the
 * others have. `inside` is the number of the loop, `failed` what failed in the chain, `items` the indexes that failed.
 */
export function failureGroups(
  inside: string,
  list: readonly Value[],
  items: readonly number[],
  failed: readonly FailedStep[],
): FailureGroup[] {
  if (items.length < MANY) return [];
  const groups = new Map<string, { step: string; status: number | null; code: string; numbers: number[] }>();
  for (const { address, step, status, code, place } of failed) {
    const found = new RegExp(`^${inside.replace(/[.#]/g, '\\$&')}#(\\d+)(?:\\.|$)`).exec(address.split('/')[0]!);
    if (!found) continue;
    const key = [step, status, code, place].join('\0');
    const group = groups.get(key) ?? { step, status, code, numbers: [] };
    group.numbers.push(Number(found[1]));
    groups.set(key, group);
  }
  const bad = new Set(items);
  const held = list.filter((_item, index) => !bad.has(index));
  return [...groups.values()]
    .map(({ numbers, ...group }): FailureGroup => {
      const sorted = [...new Set(numbers)].sort((a, b) => a - b);
      return {
        ...group,
        count: sorted.length,
        items: ranges(sorted),
        first: sorted[0]!,
        common: commonOf(
          sorted.map((number) => list[number - 1]!),
          held,
        ),
      };
    })
    .sort((a, b) => b.count - a.count);
}

/** `4, 9, 12-15 and 31 more`. */
function ranges(numbers: readonly number[]): string {
  const found: [from: number, to: number][] = [];
  for (const number of numbers) {
    const last = found.at(-1);
    if (last && last[1] === number - 1) last[1] = number;
    else found.push([number, number]);
  }
  const shown = found.slice(0, MAX_RANGES).map(([from, to]) => (from === to ? `${from}` : `${from}-${to}`));
  const rest = found.slice(MAX_RANGES).reduce((sum, [from, to]) => sum + to - from + 1, 0);
  return shown.join(', ') + (rest > 0 ? ` and ${rest} more` : '');
}

/** Members whose value is the same in all of a group, and in at most half of the items that held. */
function commonOf(group: readonly Value[], held: readonly Value[]): string[] {
  const [first] = group;
  if (!isObject(first)) return [];
  const shared = Object.entries(first).filter(
    ([name, value]) => !isList(value) && !isObject(value) && group.every((item) => sameMember(item, name, value)),
  );
  return shared
    .map(([name, value]) => ({ name, value, others: held.filter((item) => sameMember(item, name, value)).length }))
    .filter(({ others }) => others * 2 <= held.length)
    .slice(0, MAX_COMMON)
    .map(
      ({ name, value, others }) =>
        `${name} is ${showValue(value)} in all ${group.length}, and in ${others} of the ${held.length} that held`,
    );
}

function sameMember(item: Value, name: string, value: Value): boolean {
  const member = memberOf(item, name);
  return member !== undefined && equalValues(member, value);
}
