import type { Value } from '../../value/value.ts';
import type { FunctionDefinition } from './definition.ts';

/** How a value is treated, without changing it. */
export const secrets: readonly FunctionDefinition[] = [
  {
    name: 'secret',
    parameters: [{ name: 'x', sort: 'private', what: 'a value' }],
    result: undefined,
    about: 'The value unchanged; it is masked from then on in everything that leaves the program.',
    alias: ['mask', 'masked', 'hide', 'sensitive', 'redact'],
    example: ['secret($.port) == $.port', 'true'],
    evaluate: (value: Value) => value,
  },
];
