import { isList, isObject, numberOf, type Value } from '../../value/value.ts';
import { compilePattern } from '../pattern/pattern.ts';
import type { Parameter } from './definition.ts';

/** Parameters that many functions take, so that each kind is described once. */
export const anyValue = (name = 'x'): Parameter => ({ name, sort: 'value', what: 'a value' });

export const textValue = (name = 'text'): Parameter => ({
  name,
  sort: 'value',
  what: 'a text',
  accepts: (value) => typeof value === 'string',
});

export const nodesOf = (name = 'path'): Parameter => ({ name, sort: 'nodes', what: 'a path' });

export const presenceOf = (name = 'path'): Parameter => ({ name, sort: 'presence', what: 'a path or a value' });

export const conditionOf = (name = 'condition'): Parameter => ({
  name,
  sort: 'condition',
  what: 'a condition',
  accepts: (value) => typeof value === 'boolean',
});

/** A list, also one that a path with many results gives. */
export const listValue = (name = 'list'): Parameter => ({ name, sort: 'list', what: 'a list', accepts: isList });

export const numberOrText = (name = 'x'): Parameter => ({
  name,
  sort: 'value',
  what: 'a number or a text',
  accepts: (value) => typeof value === 'string' || numberOf(value) !== undefined,
});

/** What has a length: a text, a list or an object. A path with many results is a list only outside filters. */
export const measurable = (name = 'x'): Parameter => ({
  name,
  sort: 'value',
  what: 'a text, a list or an object',
  accepts: (value: Value) => typeof value === 'string' || isList(value) || isObject(value),
});

/** An RFC 9485 pattern; a literal one is compiled when the expression is checked. */
export const patternText = (name = 'pattern'): Parameter => ({
  ...textValue(name),
  examine: (value) => {
    const pattern = typeof value === 'string' ? compilePattern(value) : undefined;
    return pattern?.problem;
  },
});
