import type { FailureGroup } from '../journal/records.ts';
import { itemIn, type Address } from '../journal/address.ts';
import { equalValues } from '../value/compare.ts';
import { grouped, showValue } from '../value/show.ts';
import { isList, isObject, memberOf, piecesOf, type Items, type Value } from '../value/value.ts';
import type { FailedStep } from './frame.ts';

/** Failed items from which they are grouped, and members that are told of a group. */
const MANY = 4;
const MAX_COMMON = 3;
/** Ranges of items that are told. */
const MAX_RANGES = 8;

type Group = Pick<FailureGroup, 'step' | 'status' | 'code'> & { numbers: Set<number>; common: Common[] | undefined };

/** A member that all items of a group share, and how many that held have it too. */
type Common = { name: string; value: Value; others: number };

/**
 * Failures of a loop that are alike, the largest group first, with what their items have in common and at most half of the
 * others have. `loop` is the address of the loop, `failed` what failed in the chain, `bad` the indexes that failed.
 */
export async function failureGroups(
  loop: Address,
  items: Items,
  bad: readonly number[],
  failed: readonly FailedStep[],
): Promise<FailureGroup[]> {
  if (bad.length < MANY) return [];
  const groups = new Map<string, Group>();
  for (const { address, step, status, code, place } of failed) {
    const number = itemIn(loop, address);
    if (number === undefined) continue;
    const key = [step, status, code, place].join('\0');
    const group = groups.get(key) ?? { step, status, code, numbers: new Set(), common: undefined };
    group.numbers.add(number);
    groups.set(key, group);
  }
  const all = [...groups.values()];
  await eachItem(items, (item, number) => {
    for (const group of all) if (group.numbers.has(number)) group.common = sharedBy(item, group.common);
  });
  const notHeld = new Set(bad);
  await eachItem(items, (item, number) => {
    if (notHeld.has(number - 1)) return;
    for (const { common = [] } of all)
      for (const each of common) if (sameMember(item, each.name, each.value)) each.others++;
  });
  const held = items.length - bad.length;
  return all
    .map(({ numbers, common = [], ...group }): FailureGroup => {
      const sorted = [...numbers].sort((a, b) => a - b);
      const told = common.filter(({ others }) => others * 2 <= held).slice(0, MAX_COMMON);
      return {
        ...group,
        count: sorted.length,
        items: ranges(sorted),
        first: sorted[0]!,
        common: told.map(
          ({ name, value, others }) =>
            `${name} is ${showValue(value)} in all ${grouped(sorted.length)}, and in ${grouped(others)} of the ${grouped(held)} that passed`,
        ),
      };
    })
    .sort((a, b) => b.count - a.count);
}

async function eachItem(items: Items, look: (item: Value, number: number) => void): Promise<void> {
  let number = 0;
  for await (const piece of piecesOf(items)) for (const item of piece) look(item, ++number);
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
  return shown.join(', ') + (rest > 0 ? ` and ${grouped(rest)} more` : '');
}

/** Scalar members of an item that those before it have as well; of the first all of them. */
function sharedBy(item: Value, before: Common[] | undefined): Common[] {
  if (before) return before.filter(({ name, value }) => sameMember(item, name, value));
  if (!isObject(item)) return [];
  return Object.entries(item).flatMap(([name, value]) =>
    isList(value) || isObject(value) ? [] : [{ name, value, others: 0 }],
  );
}

function sameMember(item: Value, name: string, value: Value): boolean {
  const member = memberOf(item, name);
  return member !== undefined && equalValues(member, value);
}
