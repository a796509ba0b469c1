import type { FunctionDefinition, Lazy } from './definition.ts';
import { conditionOf, lazyValue, presenceOf } from './parameters.ts';

/** Functions that are conditions by themselves. */
export const conditions: readonly FunctionDefinition[] = [
  {
    name: 'exists',
    parameters: [presenceOf()],
    result: 'condition',
    about: 'Whether a path finds anything. The one way to speak of what may be missing.',
    alias: ['has', 'defined', 'present', 'is_set'],
    example: ['exists($.arrivals[0].berth)', 'true'],
    evaluate: (found: boolean) => found,
  },
  {
    name: 'not',
    parameters: [conditionOf()],
    result: 'condition',
    about: 'Turns a condition round; the same as `!`, which YAML would take for a tag at the start of a value.',
    example: ["not('a' == 'b')", 'true'],
    evaluate: (value: boolean) => !value,
  },
  {
    name: 'if',
    parameters: [conditionOf(), lazyValue('then'), lazyValue('otherwise')],
    result: undefined,
    about: 'One of two values; only the one that is chosen is computed.',
    alias: ['choose', 'ternary', 'cond', 'when'],
    example: ["if(exists($.port), 'a port', 'none')", "'a port'"],
    evaluate: (condition: boolean, then: Lazy, otherwise: Lazy) => (condition ? then() : otherwise()),
  },
];
