import { wholeNumber } from '../../schema/measures.ts';
import { stepReader } from './definition.ts';

export const together = stepReader({
  key: 'together',
  about: 'Unlike steps at the same time; none sees what another of them keeps.',
  shape: (steps) => ({
    together: steps().describe('The steps.'),
    'at-once': wholeNumber('a number of steps').optional().describe('How many at the same time; all unless said.'),
  }),
  read: (given) => ({ kind: 'together', steps: given.together, atOnce: given['at-once'] || undefined }),
});
