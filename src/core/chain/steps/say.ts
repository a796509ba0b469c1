import { text } from '../../schema/leaves.ts';
import { stepReader } from './definition.ts';

export const sayStep = stepReader({
  key: 'say',
  about: 'Prints a line in the output and the report.',
  shape: () => ({ say: text().describe('The line, with placeholders.') }),
  read: (given) => ({ kind: 'say', text: given.say }),
});
