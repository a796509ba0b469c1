import { numberOf, isObject, type Items, type Value } from '../value/value.ts';
import { textOf } from '../value/text.ts';

/** Members that tell what an item is called, the first that it has. */
const TELLING = ['id', 'key', 'name'];
/** Characters of what is still a name. */
const MAX_LABEL = 40;
/** Items of a list that are looked at before the first of them runs; longer lists go by numbers. */
const MAX_ITEMS = 10_000;

/**
 * What the items of a list are called: by a member that tells them apart, and with their number behind it where two have
 * the same. Nothing for an item that only its number tells.
 */
export function itemLabels(items: Items): (index: number) => string | undefined {
  if (!Array.isArray(items) || items.length > MAX_ITEMS) return () => undefined;
  const labels = (items as readonly Value[]).map(labelOf);
  const counts = new Map<string, number>();
  for (const label of labels) if (label !== undefined) counts.set(label, (counts.get(label) ?? 0) + 1);
  return (index) => {
    const label = labels[index];
    return label !== undefined && counts.get(label)! > 1 ? `${label} (${index + 1})` : label;
  };
}

function labelOf(item: Value): string | undefined {
  if (!isObject(item)) return undefined;
  for (const name of TELLING) {
    const value = Object.hasOwn(item, name) ? (item as Readonly<Record<string, Value>>)[name] : undefined;
    if (typeof value !== 'string' && (value === undefined || numberOf(value) === undefined)) continue;
    const text = textOf(value);
    if (typeof text === 'string' && text !== '' && text.length <= MAX_LABEL) return text;
  }
  return undefined;
}
