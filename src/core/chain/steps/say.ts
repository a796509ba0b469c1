import { text } from '../../schema/leaves.ts';
import { stepKind } from './definition.ts';
import { textPart } from '../parts.ts';

export const sayStep = stepKind({
  key: 'say',
  about: 'Prints a line in the output and the report.',
  shape: () => ({ say: text().describe('The line, with placeholders.') }),
  read: (given) => ({ kind: 'say', text: given.say }),
  parts: ({ text: said }) => textPart(said, 'text'),
  sourceOf: ({ text: said }) => said.source,
});
