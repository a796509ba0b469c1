import { isList, isObject, type Maybe, type Value } from '../../value/value.ts';
import { compilePattern, type Pattern } from '../pattern/pattern.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { measurable, nodesOf, patternText, textValue } from './parameters.ts';

/** The functions of RFC 9535, section 2.4. */
export const standard: readonly FunctionDefinition[] = [
  {
    name: 'length',
    parameters: [measurable()],
    result: 'number',
    about: 'The number of characters of a string, items of an array, or members of an object.',
    alias: ['size', 'len'],
    example: ['length($.arrivals)', '2'],
    evaluate: lengthOf,
  },
  {
    name: 'count',
    parameters: [nodesOf()],
    result: 'number',
    about: 'The number of nodes that a path finds.',
    example: ['count($.arrivals[*].berth)', '2'],
    evaluate: (nodes: readonly Value[]) => nodes.length,
  },
  {
    name: 'match',
    parameters: [textValue(), patternText()],
    result: 'condition',
    errors: 'The pattern is not an I-Regexp (invalid-pattern).',
    about: 'Whether a pattern (I-Regexp, RFC 9485) matches the whole string.',
    alias: ['matches', 'regex', 'regexp'],
    example: ["match($.arrivals[0].vessel, '[A-Z]{2} [0-9]+/[0-9]')", 'true'],
    evaluate: (text: string, pattern: string) => patternOf(pattern).matches(searchable(text)),
  },
  {
    name: 'search',
    parameters: [textValue(), patternText()],
    result: 'condition',
    errors: 'The pattern is not an I-Regexp (invalid-pattern).',
    about: 'Whether a pattern (I-Regexp, RFC 9485) matches a part of the string.',
    alias: ['test'],
    example: ["search($.arrivals[0].vessel, '20[0-9]')", 'true'],
    evaluate: (text: string, pattern: string) => patternOf(pattern).occursIn(searchable(text)),
  },
  {
    name: 'value',
    parameters: [nodesOf()],
    result: undefined,
    about: 'The value of the only node that a path finds; nothing if it finds none or several.',
    example: ["value($.arrivals[?@.berth == 'N1'].vessel)", "'KM 204/5'"],
    evaluate: (nodes: readonly Value[]) => (nodes.length === 1 ? nodes[0] : undefined),
  },
];

function lengthOf(value: Value): Maybe {
  if (typeof value === 'string') {
    let count = value.length;
    for (let i = 0; i < value.length - 1; i++) {
      const high = value.charCodeAt(i);
      const low = value.charCodeAt(i + 1);
      if (high >= 0xd800 && high <= 0xdbff && low >= 0xdc00 && low <= 0xdfff) count--;
    }
    return count;
  }
  if (isList(value)) return value.length;
  return isObject(value) ? Object.keys(value).length : undefined;
}

/** Patterns that come from data are compiled once each; a bad one is an error outside filters, RFC 9535 section 2.4.6. */
function patternOf(source: string): Pattern {
  const compiled = compilePattern(source);
  if (compiled.pattern) return compiled.pattern;
  throw new FunctionFault(compiled.problem.message, compiled.problem.advice, 1);
}

const MAX_SEARCHED = 1024 * 1024;

function searchable(text: string): string {
  if (text.length <= MAX_SEARCHED) return text;
  throw new FunctionFault('A string to search can have at most 1 MiB', 'Search a part of it.', 0);
}
