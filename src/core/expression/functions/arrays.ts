import { showValue } from '../../value/show.ts';
import { isList, numberOf, type Maybe, type Value } from '../../value/value.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { listValue, optional, textOrList, wholeNumber } from './parameters.ts';

type List = readonly Value[];

/** Items that `range()` makes at most; stops a slip from filling the memory. */
const MAX_RANGE = 10_000_000;

/** Functions of lists by position and shape. */
export const arrays: readonly FunctionDefinition[] = [
  {
    name: 'first',
    parameters: [listValue()],
    result: undefined,
    about: 'The first item of an array; nothing if it is empty.',
    alias: ['head'],
    example: ['first($.arrivals[*].vessel)', "'KM 204/5'"],
    evaluate: (list: List) => list[0],
  },
  {
    name: 'last',
    parameters: [listValue()],
    result: undefined,
    about: 'The last item of an array; nothing if it is empty.',
    alias: ['tail'],
    example: ['last($.arrivals[*].vessel)', "'SV 118/2'"],
    evaluate: (list: List) => list.at(-1),
  },
  {
    name: 'at',
    parameters: [listValue(), wholeNumber('index')],
    result: undefined,
    about: 'The item at an index from 0, or from the end if negative; nothing if there is none.',
    alias: ['nth', 'get', 'item'],
    example: ['at($.arrivals[*].state, -1)', "'moored'"],
    evaluate: (list: List, index: Value) => list.at(Number(numberOf(index))),
  },
  {
    name: 'range',
    parameters: [wholeNumber('a'), optional(wholeNumber('b'))],
    result: 'array',
    errors: 'A bound is not a whole number, or the result would have more than 10,000,000 numbers.',
    about: 'The whole numbers from a up to but not including b; with one argument, from 0.',
    alias: ['sequence', 'times'],
    example: ['range(2, 5)', '[2, 3, 4]'],
    evaluate: (a: Value, b?: Value) => rangeOf(b === undefined ? 0 : Number(numberOf(a)), Number(numberOf(b ?? a))),
  },
  {
    name: 'reversed',
    parameters: [listValue()],
    result: 'array',
    about: 'The items in reverse order.',
    alias: ['reverse'],
    example: ['reversed([1, 2, 3])', '[3, 2, 1]'],
    evaluate: (list: List) => list.toReversed(),
  },
  {
    name: 'flat',
    parameters: [listValue()],
    result: 'array',
    about: 'The array with nested arrays flattened by one level.',
    alias: ['flatten', 'concat'],
    example: ['flat([[1, 2], [3], 4])', '[1, 2, 3, 4]'],
    evaluate: (list: List) => list.flatMap((item) => (isList(item) ? item : [item])),
  },
  {
    name: 'batches',
    parameters: [listValue(), wholeNumber()],
    result: 'array',
    errors: 'The size is below 1.',
    about: 'Arrays of n consecutive items each; the last one may be shorter.',
    alias: ['chunk', 'chunks', 'partition'],
    example: ['batches([1, 2, 3], 2)', '[[1, 2], [3]]'],
    evaluate: (list: List, n: Value) => batchesOf(list, Number(numberOf(n))),
  },
  {
    name: 'single',
    parameters: [listValue()],
    result: undefined,
    errors: 'There is no item, or more than one.',
    about: 'The only item of an array; an error unless there is exactly one.',
    alias: ['only_one', 'exactly_one', 'one'],
    example: ["single($.arrivals[?@.state == 'moored']).vessel", "'SV 118/2'"],
    evaluate: (list: List): Maybe => {
      if (list.length === 1) return list[0];
      const count = list.length === 0 ? 'none' : String(list.length);
      throw new FunctionFault(
        `single() takes an array of exactly one item, and this one has ${count}`,
        list.length === 0 ? undefined : 'To take the first of several: first(array).',
      );
    },
  },
  {
    name: 'zipped',
    parameters: [listValue('a'), listValue('b')],
    result: 'array',
    errors: 'The arrays differ in length.',
    about: 'Pairs of the items of two arrays of equal length.',
    alias: ['zip'],
    example: ["zipped([1, 2], ['a', 'b'])", "[[1, 'a'], [2, 'b']]"],
    evaluate: (a: List, b: List) => {
      if (a.length === b.length) return a.map((item, i) => [item, b[i]!]);
      throw new FunctionFault(
        `zipped() takes arrays of equal length, and these have ${a.length} and ${b.length} items`,
      );
    },
  },
  {
    name: 'slice',
    parameters: [textOrList(), wholeNumber('from'), optional(wholeNumber('to'))],
    result: undefined,
    about:
      'A part of a string or array, from one index up to but not including another; negative indexes count from the end.',
    alias: ['substring', 'substr', 'take', 'drop'],
    example: ['slice($.port, 0, 4)', "'Kvit'"],
    evaluate: (whole: string | List, from: Value, to?: Value) => {
      const ends = [Number(numberOf(from)), to === undefined ? undefined : Number(numberOf(to))] as const;
      return typeof whole === 'string' ? [...whole].slice(...ends).join('') : whole.slice(...ends);
    },
  },
];

function rangeOf(from: number, to: number): Value {
  const count = Math.max(0, to - from);
  if (count > MAX_RANGE)
    throw new FunctionFault(`range() gives at most 10,000,000 numbers, and this would be ${count}`);
  return Array.from({ length: count }, (_, i) => from + i);
}

function batchesOf(list: List, size: number): Value {
  if (size < 1) throw new FunctionFault(`batches() needs a size of 1 or more, not ${showValue(size)}`, undefined, 1);
  return Array.from({ length: Math.ceil(list.length / size) }, (_, i) => list.slice(i * size, (i + 1) * size));
}
