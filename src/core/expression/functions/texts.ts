import type { FunctionDefinition } from './definition.ts';
import { textValue } from './parameters.ts';

/** Functions from text to text. */
export const texts: readonly FunctionDefinition[] = [
  {
    name: 'lower',
    parameters: [textValue()],
    result: 'text',
    about: 'The text in lower case, in the same way in every language.',
    alias: ['lowercase', 'to_lower', 'tolower', 'downcase'],
    example: ['lower($.port)', "'kvitnes'"],
    evaluate: (text) => (text as string).toLowerCase(),
  },
  {
    name: 'upper',
    parameters: [textValue()],
    result: 'text',
    about: 'The text in upper case, in the same way in every language.',
    alias: ['uppercase', 'to_upper', 'toupper', 'upcase'],
    example: ['upper($.port)', "'KVITNES'"],
    evaluate: (text) => (text as string).toUpperCase(),
  },
];
