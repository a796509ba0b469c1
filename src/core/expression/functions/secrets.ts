import type { Value } from '../../value/value.ts';
import type { FunctionDefinition } from './definition.ts';
import { textValue } from './parameters.ts';

/** How a value is treated, without changing it. */
export const secrets: readonly FunctionDefinition[] = [
  {
    name: 'secret',
    parameters: [
      { name: 'x', sort: 'private', what: 'a value' },
      { ...textValue('api'), what: 'the name of an API', optional: true },
    ],
    result: undefined,
    about:
      'The value unchanged; it is masked from then on in everything that leaves the program, and is sent to the API that gave it and to no other but the one named.',
    alias: ['mask', 'masked', 'hide', 'sensitive', 'redact'],
    example: ['secret($.port) == $.port', 'true'],
    evaluate: (value: Value) => value,
  },
];
