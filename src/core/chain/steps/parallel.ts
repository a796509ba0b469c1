import { wholeNumber } from '../../schema/measures.ts';
import { stepKind } from './definition.ts';

export const parallel = stepKind({
  key: 'parallel',
  about: 'Runs different steps at the same time; none reads names that another keeps.',
  shape: (steps) => ({
    parallel: steps().describe('The steps.'),
    concurrency: wholeNumber('a number of steps')
      .optional()
      .describe('The largest number of steps at the same time. Default: all.'),
  }),
  read: (given) => ({ kind: 'parallel', steps: given.parallel, concurrency: given['concurrency'] || undefined }),
  parts: ({ steps }) => [{ sort: 'steps', steps, order: 'together' }],
});
