import { XmlNode } from '../../value/xml.ts';
import { Bytes, LongBytes, DateTime, Duration, isList, isObject, numberOf, type Value } from '../../value/value.ts';
import { compilePattern } from '../pattern/pattern.ts';
import { zoneProblem } from '../../value/zones.ts';
import type { Parameter } from './definition.ts';

/** Parameters that many functions take, so that each kind is described once. */
export const anyValue = (name = 'x'): Parameter => ({ name, sort: 'value', what: 'a value' });

export const textValue = (name = 'string'): Parameter => ({
  name,
  sort: 'value',
  what: 'a string',
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
export const listValue = (name = 'array'): Parameter => ({ name, sort: 'list', what: 'an array', accepts: isList });

export const numberOrText = (name = 'x'): Parameter => ({
  name,
  sort: 'value',
  what: 'a number or a string',
  accepts: (value) => typeof value === 'string' || numberOf(value) !== undefined,
});

/** What has a length: a text, a list or an object. A path with many results is a list only outside filters. */
export const measurable = (name = 'x'): Parameter => ({
  name,
  sort: 'value',
  what: 'a string, an array or an object',
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

export const maybeValue = (name = 'x'): Parameter => ({ name, sort: 'maybe', what: 'a value or nothing' });

/** An expression over `@`, evaluated for each item of the list before it. */
export const itemExpression = (name = 'expression'): Parameter => ({
  name,
  sort: 'item',
  what: 'an expression with @',
});

export const itemCondition = (name = 'condition'): Parameter => ({
  name,
  sort: 'itemCondition',
  what: 'a condition with @',
});

export const lazyValue = (name: string): Parameter => ({ name, sort: 'lazy', what: 'a value' });

export const objectValue = (name = 'object'): Parameter => ({
  name,
  sort: 'value',
  what: 'an object',
  accepts: isObject,
});

export const numberValue = (name = 'n'): Parameter => ({
  name,
  sort: 'value',
  what: 'a number',
  accepts: (value) => numberOf(value) !== undefined,
});

export const wholeNumber = (name = 'n'): Parameter => ({
  name,
  sort: 'value',
  what: 'a whole number',
  accepts: (value) => Number.isSafeInteger(numberOf(value)),
});

export const textOrList = (name = 'x'): Parameter => ({
  name,
  sort: 'list',
  what: 'a string or an array',
  accepts: (value) => typeof value === 'string' || isList(value),
});

export const textOrBytes = (name = 'x'): Parameter => ({
  name,
  sort: 'value',
  what: 'a string or bytes',
  accepts: (value) => typeof value === 'string' || value instanceof Bytes,
});

/** What a digest reads: also content that is too long to hold. */
export const content = (name = 'x'): Parameter => ({
  ...textOrBytes(name),
  accepts: (value) => typeof value === 'string' || value instanceof Bytes || value instanceof LongBytes,
});

export const dateTimeValue = (name = 't'): Parameter => ({
  name,
  sort: 'value',
  what: 'a date-time',
  accepts: (value) => value instanceof DateTime,
});

/** A time zone by its IANA name. */
export const zoneName = (name = 'zone'): Parameter => ({
  ...textValue(name),
  examine: (value) => (typeof value === 'string' ? zoneProblem(value) : undefined),
});

export const textOrDateTime = (name = 'x'): Parameter => ({
  name,
  sort: 'value',
  what: 'a string or a date-time',
  accepts: (value) => typeof value === 'string' || value instanceof DateTime,
});

export const textOrDuration = (name = 'x'): Parameter => ({
  name,
  sort: 'value',
  what: 'a string or a duration',
  accepts: (value) => typeof value === 'string' || value instanceof Duration,
});

export const nodeValue = (name = 'node'): Parameter => ({
  name,
  sort: 'value',
  what: 'an XML node',
  accepts: (value) => value instanceof XmlNode,
});

/** The same parameter, which may be left out. */
export const optional = (parameter: Parameter): Parameter => ({ ...parameter, optional: true });
