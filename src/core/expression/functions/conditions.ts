import type { FunctionDefinition, Lazy } from './definition.ts';
import { conditionOf, lazyValue, presenceOf } from './parameters.ts';

/** Functions that are conditions by themselves. */
export const conditions: readonly FunctionDefinition[] = [
  {
    name: 'exists',
    parameters: [presenceOf()],
    result: 'condition',
    about: 'Whether a path finds anything: the way to test for what may be missing.',
    alias: ['has', 'defined', 'present', 'is_set'],
    example: ['exists($.arrivals[0].berth)', 'true'],
    evaluate: (found: boolean) => found,
  },
  {
    name: 'not',
    parameters: [conditionOf()],
    result: 'condition',
    about: 'The opposite of a condition; the same as `!`, which YAML would read as a tag at the start of a value.',
    example: ["not('a' == 'b')", 'true'],
    evaluate: (value: boolean) => !value,
  },
  {
    name: 'if',
    parameters: [conditionOf(), lazyValue('then'), lazyValue('otherwise')],
    result: undefined,
    about: 'One of two values; only the one that is chosen is evaluated.',
    alias: ['choose', 'ternary', 'cond', 'when'],
    example: ["if(exists($.port), 'a port', 'none')", "'a port'"],
    evaluate: (condition: boolean, then: Lazy, otherwise: Lazy) => (condition ? then() : otherwise()),
  },
];
