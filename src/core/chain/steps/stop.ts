import { choice, text } from '../../schema/leaves.ts';
import { stepReader } from './definition.ts';

export const stopStep = stepReader({
  key: 'stop',
  about: 'Ends the chain.',
  shape: () => ({
    stop: text('the reason').describe('Why the chain ends here.'),
    as: choice('failed', 'passed').optional().describe('Whether the chain failed (the default) or passed.'),
  }),
  read: (given) => ({ kind: 'stop', text: given.stop, as: given.as ?? 'failed' }),
});
