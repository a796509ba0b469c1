import type { FunctionDefinition } from './definition.ts';
import { conditionOf, presenceOf } from './parameters.ts';

/** Functions that are conditions by themselves. */
export const conditions: readonly FunctionDefinition[] = [
  {
    name: 'exists',
    parameters: [presenceOf()],
    result: 'condition',
    about: 'Whether a path finds anything. The one way to speak of what may be missing.',
    alias: ['has', 'defined', 'present', 'is_set'],
    example: ['exists($.arrivals[0].berth)', 'true'],
    evaluate: (found) => found,
  },
  {
    name: 'not',
    parameters: [conditionOf()],
    result: 'condition',
    about: 'Turns a condition round; the same as `!`, which YAML would take for a tag at the start of a value.',
    example: ["not('a' == 'b')", 'true'],
    evaluate: (value) => !(value as boolean),
  },
];
