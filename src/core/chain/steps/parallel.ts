import { wholeNumber } from '../../schema/measures.ts';
import { stepReader } from './definition.ts';

export const parallel = stepReader({
  key: 'parallel',
  about: 'Unlike steps at the same time; none sees what another of them keeps.',
  shape: (steps) => ({
    parallel: steps().describe('The steps.'),
    concurrency: wholeNumber('a number of steps').optional().describe('How many at the same time; all unless said.'),
  }),
  read: (given) => ({ kind: 'parallel', steps: given.parallel, concurrency: given['concurrency'] || undefined }),
});
