import { aType } from '../../value/show.ts';
import { orderOf, equalValues } from '../../value/compare.ts';
import { writeJson } from '../../value/json-write.ts';
import { isNumber } from '../../value/numbers.ts';
import { Duration, typeOf, numberOf, type Maybe, type Value } from '../../value/value.ts';
import { calculate, WrongOperands } from '../operators.ts';
import { FunctionFault, type FunctionDefinition, type ItemExpression, type Parameter } from './definition.ts';
import { itemCondition, itemExpression, listValue, optional } from './parameters.ts';

type List = readonly Value[];

/** Functions that go over the items of a list, with `@` as the item. */
export const items: readonly FunctionDefinition[] = [
  {
    name: 'all',
    parameters: [listValue(), itemCondition()],
    result: 'condition',
    about: 'Whether a condition is true for every item; true for an empty array.',
    alias: ['every'],
    example: ['all($.arrivals, @.draught > 4)', 'true'],
    evaluate: (list: List, condition: ItemExpression) => decided(list, condition, false),
  },
  {
    name: 'any',
    parameters: [listValue(), itemCondition()],
    result: 'condition',
    about: 'Whether a condition is true for at least one item; false for an empty array.',
    alias: ['some'],
    example: ["any($.arrivals, @.state == 'moored')", 'true'],
    evaluate: (list: List, condition: ItemExpression) => decided(list, condition, true),
  },
  {
    name: 'filtered',
    parameters: [listValue(), itemCondition()],
    result: 'array',
    about: 'The items for which a condition is true.',
    alias: ['filter', 'select', 'find_all'],
    example: ['filtered([3, 8, 5], @ > 4)', '[8, 5]'],
    evaluate: (list: List, condition: ItemExpression) => list.filter((item) => condition(item) === true),
  },
  {
    name: 'mapped',
    parameters: [listValue(), itemExpression()],
    result: 'array',
    errors: 'The expression finds nothing for an item; add ??.',
    about: 'The value of an expression for each item.',
    alias: ['map', 'collect', 'pluck', 'transform'],
    example: ['mapped([1, 2], @ * 10)', '[10, 20]'],
    evaluate: (list: List, expression: ItemExpression) => keysOf('mapped', list, expression),
  },
  {
    name: 'sorted',
    parameters: [listValue(), optional(itemExpression('by'))],
    result: 'array',
    errors:
      'The items, or the values of the expression, are not all of one ordered type; or it finds nothing for an item.',
    about: 'The items in ascending order, by their value or by that of an expression; equal items keep their order.',
    alias: ['sort', 'sort_by', 'order', 'order_by'],
    example: ['sorted($.arrivals, @.draught)[*].draught', '[4.1, 6.5]'],
    evaluate: (list: List, by?: ItemExpression) => sortedBy(list, keysOf('sorted', list, by)),
  },
  {
    name: 'distinct',
    parameters: [listValue(), optional(itemExpression('by'))],
    result: 'array',
    errors: 'The expression finds nothing for an item; add ??.',
    about: 'The items without those that equal an earlier one.',
    alias: ['unique', 'uniq', 'dedupe', 'distinct_by'],
    example: ['distinct([1, 2, 1, 3])', '[1, 2, 3]'],
    evaluate: (list: List, by?: ItemExpression) => {
      const keys = keysOf('distinct', list, by);
      return grouping(keys).map((group) => list[group[0]!]!);
    },
  },
  {
    name: 'grouped',
    parameters: [listValue(), itemExpression('by')],
    result: 'array',
    errors: 'The expression finds nothing for an item; add ??.',
    about: 'An array of {key, items}: the items grouped by the value of an expression, in order of first appearance.',
    alias: ['group', 'group_by'],
    example: ['grouped([1, 2, 3, 4], @ % 2)[*].items', '[[1, 3], [2, 4]]'],
    evaluate: (list: List, by: ItemExpression) => {
      const keys = keysOf('grouped', list, by);
      return grouping(keys).map((group) => ({ key: keys[group[0]!]!, items: group.map((i) => list[i]!) }));
    },
  },
  {
    name: 'sum',
    parameters: [listValue(), optional(itemExpression('of'))],
    result: undefined,
    errors: 'An item is neither a number nor a duration.',
    about: 'The sum of numbers or durations; 0 for an empty array.',
    alias: ['total', 'add'],
    example: ['sum($.arrivals, @.draught)', '10.6'],
    evaluate: (list: List, of?: ItemExpression) => sumOf(keysOf('sum', list, of)),
  },
  {
    name: 'min',
    parameters: [listValue(), optional(itemExpression('of'))],
    result: undefined,
    errors: 'The items are not all of one ordered type.',
    about: 'The smallest of numbers, strings, durations or date-times; nothing for an empty array.',
    alias: ['minimum', 'least'],
    example: ['min([3, 1, 2])', '1'],
    evaluate: (list: List, of?: ItemExpression) => sortedBy(keysOf('min', list, of))[0],
  },
  {
    name: 'max',
    parameters: [listValue(), optional(itemExpression('of'))],
    result: undefined,
    errors: 'The items are not all of one ordered type.',
    about: 'The largest of numbers, strings, durations or date-times; nothing for an empty array.',
    alias: ['maximum', 'greatest'],
    example: ['max($.arrivals, @.draught)', '6.5'],
    evaluate: (list: List, of?: ItemExpression) => sortedBy(keysOf('max', list, of)).at(-1),
  },
  {
    name: 'mean',
    parameters: [listValue()],
    result: undefined,
    errors: 'An item is neither a number nor a duration.',
    about: 'The arithmetic mean of numbers or durations; nothing for an empty array.',
    alias: ['average', 'avg'],
    example: ['mean([1, 2, 6])', '3'],
    evaluate: (list: List): Maybe => {
      if (list.length === 0) return undefined;
      return computed('/', sumOf(list), list.length);
    },
  },
  {
    name: 'median',
    parameters: [listValue(), optional(itemExpression('of'))],
    result: undefined,
    errors: 'An item is neither a number nor a duration.',
    about:
      'The middle of numbers or durations in order, or the mean of the two in the middle; nothing for an empty array.',
    alias: ['middle', 'p50'],
    example: ['median([7, 1, 3])', '3'],
    evaluate: (list: List, of?: ItemExpression) => percentileOf(keysOf('median', list, of), 50),
  },
  {
    name: 'percentile',
    parameters: [listValue(), percentage()],
    result: undefined,
    errors: 'An item is neither a number nor a duration, or p is not between 0 and 100.',
    about:
      'The value below which p per cent of numbers or durations lie, linear between the two nearest items; nothing for an empty array.',
    alias: ['quantile', 'p95', 'p99', 'p90'],
    example: ['percentile([10, 20, 30, 40, 50], 95)', '48'],
    evaluate: (list: List, p: Value) => percentileOf(list, Number(numberOf(p))),
  },
];

/** A number from 0 to 100. */
function percentage(): Parameter {
  const isShare = (value: Value) => Number(numberOf(value)) >= 0 && Number(numberOf(value)) <= 100;
  return { name: 'p', sort: 'value', what: 'a number from 0 to 100', accepts: isShare };
}

/** Linear between the closest ranks, so that 50 gives the median. */
function percentileOf(list: List, p: number): Maybe {
  if (list.length === 0) return undefined;
  for (const item of list) computed('+', list[0]!, item);
  const inOrder = sortedBy(list);
  const rank = ((list.length - 1) * p) / 100;
  const low = inOrder[Math.floor(rank)]!;
  const rest = rank % 1;
  if (rest === 0) return low;
  return computed('+', low, computed('*', computed('-', inOrder[Math.ceil(rank)]!, low), rest));
}

/** Three-valued: the deciding outcome for one item decides; else nothing for one makes it nothing. */
function decided(list: List, condition: ItemExpression, deciding: boolean): Maybe {
  let outcome: Maybe = !deciding;
  for (const item of list) {
    const value = condition(item);
    if (value === deciding) return deciding;
    if (value === undefined) outcome = undefined;
  }
  return outcome;
}

/** What an expression gives for each item, or the items themselves; nothing for one is an error that names it. */
function keysOf(name: string, list: List, expression: ItemExpression | undefined): List {
  if (!expression) return list;
  return list.map((item, i) => {
    const key = expression(item);
    if (key !== undefined) return key;
    throw new FunctionFault(`${name}() found nothing for item ${i + 1}`, 'Add ?? with a value for that case.', 1);
  });
}

function sortedBy(list: List, keys: List = list): List {
  const order = keys.map((_, i) => i);
  const [first] = keys;
  const wrong = keys.find((key) => orderOf(first, key) === undefined);
  if (wrong !== undefined) {
    throw new FunctionFault(
      `Only numbers, strings, durations or date-times can be ordered, all of one type; here are ${aType(first)} and ${aType(wrong)}`,
    );
  }
  return order.sort((a, b) => orderOf(keys[a], keys[b])! || a - b).map((i) => list[i]!);
}

/** Indexes of equal keys together, in order of first appearance. Scalars are found by their text, others compared. */
function grouping(keys: List): readonly (readonly number[])[] {
  const groups: number[][] = [];
  const known = new Map<string, number[][]>();
  for (const [i, key] of keys.entries()) {
    const text = isNumber(key)
      ? `number ${Number(numberOf(key))}`
      : typeof key === 'object'
        ? typeOf(key)
        : writeJson(key);
    const candidates = known.get(text) ?? [];
    known.set(text, candidates);
    const group = candidates.find(([member]) => equalValues(keys[member!]!, key));
    if (group) {
      group.push(i);
    } else {
      groups.push([i]);
      candidates.push(groups.at(-1)!);
    }
  }
  return groups;
}

function sumOf(list: List): Value {
  const start: Value = list[0] instanceof Duration ? new Duration(0) : 0;
  return list.reduce((sum, item) => computed('+', sum, item), start);
}

function computed(operator: '+' | '-' | '*' | '/', left: Value, right: Value): Value {
  const isSummed = (value: Value) => isNumber(value) || value instanceof Duration;
  const wrong = [left, right].find((value) => !isSummed(value));
  if (wrong !== undefined) throw new FunctionFault(`Only numbers or durations can be added, not ${aType(wrong)}`);
  const result = calculate(operator, left, right);
  if (result instanceof WrongOperands) throw new FunctionFault(result.message, result.advice);
  return result;
}
