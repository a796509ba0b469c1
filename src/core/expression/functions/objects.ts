import { writtenKey, writtenPath } from '../../path/normalized.ts';
import { differences } from '../../value/difference.ts';
import { nameList, showValue } from '../../value/show.ts';
import { defineMember, isList, memberOf, type Maybe, type ObjectValue, type Value } from '../../value/value.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { anyValue, listValue, objectValue, optional } from './parameters.ts';

/** Functions of objects and their members. */
export const objects: readonly FunctionDefinition[] = [
  {
    name: 'keys',
    parameters: [objectValue()],
    result: 'array',
    about: "The names of an object's members.",
    alias: ['members', 'names', 'fields'],
    example: ['keys($)', "['port', 'arrivals']"],
    evaluate: (object: ObjectValue) => Object.keys(object),
  },
  {
    name: 'values',
    parameters: [objectValue()],
    result: 'array',
    about: "The values of an object's members.",
    example: ['first(values($))', "'Kvitnes'"],
    evaluate: (object: ObjectValue) => Object.values(object),
  },
  {
    name: 'entries',
    parameters: [objectValue()],
    result: 'array',
    about: 'An array of {key, value}, one for each member.',
    alias: ['to_entries', 'items', 'pairs'],
    example: ['entries($)[*].key', "['port', 'arrivals']"],
    evaluate: (object: ObjectValue) => Object.entries(object).map(([key, value]) => ({ key, value })),
  },
  {
    name: 'object_of',
    parameters: [listValue()],
    result: 'object',
    errors: 'An item is neither [name, value] nor {key, value}, or a name occurs twice.',
    about: 'An object from an array of [name, value] pairs, or of {key, value} objects as entries() gives them.',
    alias: ['object', 'to_object', 'dict'],
    example: ["object_of([['port', $.port], ['quays', 3]])", 'parse_json(\'{"port": "Kvitnes", "quays": 3}\')'],
    evaluate: objectOf,
  },
  {
    name: 'merged',
    parameters: [objectValue('a'), objectValue('b')],
    result: 'object',
    about: 'The members of two objects; if both have one, that of the second.',
    alias: ['merge', 'assign', 'extend'],
    example: ['merged($.arrivals[0], $.arrivals[1]).state', "'moored'"],
    evaluate: (a: ObjectValue, b: ObjectValue) => built([...Object.entries(a), ...Object.entries(b)]),
  },
  {
    name: 'difference',
    parameters: [anyValue('a'), anyValue('b'), optional(listValue('except'))],
    result: 'array',
    errors: 'A path of except is not made of names, indexes and [*].',
    about:
      'The places where two values differ, each with path, left and right (the value in a and in b, null where there is none): an empty array when they are equal. Paths in except may differ; they are made of names, indexes and [*].',
    alias: ['diff', 'differences', 'compare'],
    example: ["difference($.arrivals[0], $.arrivals[1], ['$.vessel', '$.berth', '$.state'])[0].path", "'$.draught'"],
    evaluate: (a: Value, b: Value, except: readonly Value[] = []): Maybe => {
      const patterns = except.map(placePattern);
      const passesOver = (keys: readonly (string | number)[]) => {
        const path = writtenPath(keys);
        return patterns.some((pattern) => pattern.test(path));
      };
      return differences(a, b, { atLeast: false, passesOver }).map(({ keys, wanted, found }) => ({
        path: writtenPath(keys),
        left: wanted ?? null,
        right: found ?? null,
      }));
    },
  },
  {
    name: 'only',
    parameters: [objectValue(), listValue('names')],
    result: 'object',
    errors: 'The object does not have one of the names.',
    about: 'The object with only the named members, each of which must exist.',
    alias: ['pick'],
    example: ["keys(only($.arrivals[0], ['state', 'vessel']))", "['state', 'vessel']"],
    evaluate: (object: ObjectValue, names: readonly Value[]) =>
      built(
        names.map((name) => {
          const value = memberOf(object, name as string);
          if (value !== undefined) return [name as string, value];
          throw new FunctionFault(
            `only() needs the member "${String(name)}", and the object has ${nameList(Object.keys(object))}`,
            undefined,
            1,
          );
        }),
      ),
  },
  {
    name: 'without',
    parameters: [objectValue(), listValue('names')],
    result: 'object',
    about: 'The object without the named members.',
    alias: ['omit', 'except', 'delete'],
    example: ["keys(without($, ['arrivals']))", "['port']"],
    evaluate: (object: ObjectValue, names: readonly Value[]) =>
      built(Object.entries(object).filter(([name]) => !names.includes(name))),
  },
];

/** Members are defined, never assigned, so `__proto__` is data. */
function built(members: readonly (readonly [name: string, value: Value])[]): ObjectValue {
  const object: Record<string, Value> = {};
  for (const [name, value] of members) defineMember(object, name, value);
  return object;
}

function objectOf(list: readonly Value[]): ObjectValue {
  const members = list.map((entry, i): readonly [string, Value] => {
    const [key, value] =
      isList(entry) && entry.length === 2 ? entry : [memberOf(entry, 'key'), memberOf(entry, 'value')];
    if (typeof key === 'string' && value !== undefined) return [key, value];
    throw new FunctionFault(
      `object_of() takes an array of [name, value] pairs or {key, value} objects, and item ${i + 1} is ${showValue(entry)}`,
    );
  });
  const twice = members.find(([key], i) => members.findIndex(([other]) => other === key) !== i);
  if (twice) throw new FunctionFault(`object_of() has the name "${twice[0]}" twice`);
  return built(members);
}

/** What a path of places matches, as such places are written: `[*]` stands for any index. */
function placePattern(path: Value): RegExp {
  if (typeof path !== 'string' || !/^\$(?:\.[\w-]+|\[(?:\d+|\*|'[^']*'|"[^"]*")\])+$/.test(path))
    throw new FunctionFault(`difference() takes paths such as '$.items[*].at', not ${showValue(path)}`, undefined, 2);
  const keys = [...path.matchAll(/\.([\w-]+)|\['([^']*)'\]|\["([^"]*)"\]|\[(\d+|\*)\]/g)];
  const source = keys.map(([, name, single, double, index]) => {
    const key = name ?? single ?? double;
    const written = key === undefined ? (index === '*' ? '' : `[${index}]`) : writtenKey(key);
    return written === '' ? '\\[\\d+\\]' : written.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');
  });
  return new RegExp(`^\\$${source.join('')}$`);
}
