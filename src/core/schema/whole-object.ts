import * as z from 'zod';
import { wholeOf } from '../diagnostics/source.ts';
import { named, readText, type Named, type NamedEntry } from './leaves.ts';
import { leaf, reportAt } from './leaf.ts';
import { showValue } from '../value/show.ts';
import { isObject, Mask, type Value } from '../value/value.ts';
import { fillFault, fillValue, type Resolver } from '../template/fill.ts';
import { onlyPlaceholder, type ValueTemplate } from '../template/template.ts';

/** A mapping from names to values, or one placeholder whose object gives them all. */
export const namedOrWhole = (inner: z.ZodType<ValueTemplate>) => z.union([named(inner), wholeObject()]);

const wholeObject = () =>
  leaf(
    'a placeholder alone, such as "{parameters}"',
    (scalar, reading): Named<ValueTemplate> => {
      const value = readText(scalar, reading);
      const { source, range } = scalar;
      if (onlyPlaceholder(value))
        return [{ name: source.text, nameRange: range, file: source.file, value, whole: true }];
      const message = `This takes a mapping from names, or a placeholder alone, not "${source.text}"`;
      reportAt(reading, scalar, 'wrong-type', message);
      return [];
    },
    { type: 'string' },
  );

/**
 * The entries of a mapping in which a placeholder may stand for all of it: each member of its object is an entry there.
 * In a record a mask stays one entry, named as it is. Throws `FillFault` for anything but an object.
 */
export function entriesOf(entries: Named<ValueTemplate>, resolver: Resolver): Named<ValueTemplate> {
  return entries.some(({ whole }) => whole)
    ? entries.flatMap((entry) => (entry.whole ? membersOf(entry, resolver) : [entry]))
    : entries;
}

function membersOf(entry: NamedEntry<ValueTemplate>, resolver: Resolver): Named<ValueTemplate> {
  const filled = fillValue(entry.value, resolver);
  if (filled === 'left-out') return [];
  const { value } = filled;
  const member = (name: string, of: Value): NamedEntry<ValueTemplate> => ({
    name,
    nameRange: entry.nameRange,
    file: entry.file,
    value: { kind: 'constant', value: of },
  });
  if (value instanceof Mask) return [member(value.name, value)];
  if (isObject(value)) return Object.entries(value).map(([name, of]) => member(name, of));
  const { source } = entry.value as Extract<ValueTemplate, { kind: 'text' }>;
  const message = `This is ${showValue(value, 60)}, and names with their values are needed here: an object`;
  return fillFault(source, { code: 'invalid-value', range: wholeOf(source), message });
}
