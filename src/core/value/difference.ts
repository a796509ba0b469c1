import { equalValues } from './compare.ts';
import { aType, counted, showValue } from './show.ts';
import { isList, isObject, typeOf, memberOf, type Maybe, type ObjectValue, type Value } from './value.ts';

/** A place where two values differ: its keys from the top, and what differs there. */
export type Difference = Readonly<{ keys: readonly (string | number)[]; text: string; wanted: Maybe; found: Maybe }>;

type DifferenceOptions = Readonly<{
  /** Members of objects that the wanted value does not have are allowed. */
  atLeast: boolean;
  /** Whether the values at a place need not be compared. */
  passesOver?(keys: readonly (string | number)[]): boolean;
  /** Told whenever two values are compared by themselves. */
  compared?(): void;
  /** Whether two unequal values count as equal all the same. */
  alike?(wanted: Value, found: Value): boolean;
}>;

/**
 * Where a value differs from what is wanted, deep and by value: the order of members does not count, lists are compared
 * item by item and have the same length, nothing is converted.
 */
export function differences(wanted: Value, found: Value, options: DifferenceOptions): readonly Difference[] {
  const list: Difference[] = [];
  compareAt([], wanted, found, options, list);
  return list;
}

type Keys = readonly (string | number)[];

function compareAt(keys: Keys, wanted: Maybe, found: Maybe, options: DifferenceOptions, list: Difference[]): void {
  if (options.passesOver?.(keys)) return;
  if (wanted !== undefined && found !== undefined) {
    if (isList(wanted) && isList(found)) return compareLists(keys, wanted, found, options, list);
    if (isObject(wanted) && isObject(found)) return compareObjects(keys, wanted, found, options, list);
  }
  options.compared?.();
  const text = difference(wanted, found, options);
  if (text !== undefined) list.push({ keys, text, wanted, found });
}

function compareLists(
  keys: Keys,
  wanted: readonly Value[],
  found: readonly Value[],
  options: DifferenceOptions,
  list: Difference[],
): void {
  options.compared?.();
  if (wanted.length !== found.length)
    list.push({ keys, text: `${counted(wanted.length, 'item')} expected, found ${found.length}`, wanted, found });
  const both = Math.min(wanted.length, found.length);
  for (let i = 0; i < both; i++) compareAt([...keys, i], wanted[i], found[i], options, list);
}

function compareObjects(
  keys: Keys,
  wanted: ObjectValue,
  found: ObjectValue,
  options: DifferenceOptions,
  list: Difference[],
): void {
  const names = new Set([...Object.keys(wanted), ...(options.atLeast ? [] : Object.keys(found))]);
  if (names.size === 0) options.compared?.();
  for (const name of names) compareAt([...keys, name], memberOf(wanted, name), memberOf(found, name), options, list);
}

/** How two values by themselves differ, in words; nothing where they are equal. */
function difference(wanted: Maybe, found: Maybe, { alike }: DifferenceOptions): string | undefined {
  if (wanted === undefined || found === undefined) return wanted === found ? undefined : absence(wanted, found);
  if (equalValues(wanted, found) || alike?.(wanted, found)) return undefined;
  const types = typeOf(wanted) === typeOf(found) ? '' : ` (${aType(wanted)} and ${aType(found)})`;
  return `expected ${showValue(wanted, 60)}, found ${showValue(found, 60)}${types}`;
}

function absence(wanted: Maybe, found: Maybe): string {
  return found === undefined
    ? `expected ${showValue(wanted, 60)}, found nothing`
    : `not expected, found ${showValue(found, 60)}`;
}
