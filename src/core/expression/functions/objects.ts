import { nameList } from '../../value/show.ts';
import { defineMember, isObject, memberOf, type ObjectValue, type Value } from '../../value/value.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { listValue, objectValue } from './parameters.ts';

/** Functions of objects and their members. */
export const objects: readonly FunctionDefinition[] = [
  {
    name: 'keys',
    parameters: [objectValue()],
    result: 'list',
    about: 'The names of an object’s members.',
    alias: ['members', 'names', 'fields'],
    example: ['keys($)', "['port', 'arrivals']"],
    evaluate: (object: ObjectValue) => Object.keys(object),
  },
  {
    name: 'values',
    parameters: [objectValue()],
    result: 'list',
    about: 'The values of an object’s members.',
    example: ['first(values($))', "'Kvitnes'"],
    evaluate: (object: ObjectValue) => Object.values(object),
  },
  {
    name: 'entries',
    parameters: [objectValue()],
    result: 'list',
    about: 'A list of {key, value}, one for each member.',
    alias: ['to_entries', 'items', 'pairs'],
    example: ['entries($)[*].key', "['port', 'arrivals']"],
    evaluate: (object: ObjectValue) => Object.entries(object).map(([key, value]) => ({ key, value })),
  },
  {
    name: 'from_entries',
    parameters: [listValue()],
    result: 'object',
    errors: 'An item is no {key, value}, or a key comes twice.',
    about: 'An object from a list of {key, value}, as entries() gives it; a key twice is an error.',
    alias: ['object', 'to_object', 'dict'],
    example: ['from_entries(entries($)) == $', 'true'],
    evaluate: fromEntries,
  },
  {
    name: 'merged',
    parameters: [objectValue('a'), objectValue('b')],
    result: 'object',
    about: 'The members of two objects; where both have one, that of the right.',
    alias: ['merge', 'assign', 'extend'],
    example: ['merged($.arrivals[0], $.arrivals[1]).state', "'moored'"],
    evaluate: (a: ObjectValue, b: ObjectValue) => built([...Object.entries(a), ...Object.entries(b)]),
  },
  {
    name: 'only',
    parameters: [objectValue(), listValue('names')],
    result: 'object',
    errors: 'A name is not there.',
    about: 'The object with the named members alone; each must be there.',
    alias: ['pick'],
    example: ["keys(only($.arrivals[0], ['state', 'vessel']))", "['state', 'vessel']"],
    evaluate: (object: ObjectValue, names: readonly Value[]) =>
      built(
        names.map((name) => {
          const value = memberOf(object, name as string);
          if (value !== undefined) return [name as string, value];
          throw new FunctionFault(
            `only() wants "${String(name)}", and the object has ${nameList(Object.keys(object))}`,
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

function fromEntries(list: readonly Value[]): ObjectValue {
  const members = list.map((entry, i): readonly [string, Value] => {
    const key = memberOf(entry, 'key');
    const value = memberOf(entry, 'value');
    if (isObject(entry) && typeof key === 'string' && value !== undefined) return [key, value];
    throw new FunctionFault(`from_entries() takes a list of {key, value}, and item ${i + 1} is none`);
  });
  const twice = members.find(([key], i) => members.findIndex(([other]) => other === key) !== i);
  if (twice) throw new FunctionFault(`from_entries() has the key "${twice[0]}" twice`);
  return built(members);
}
