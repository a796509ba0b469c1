import { choice, text } from '../../schema/leaves.ts';
import { stepKind } from './definition.ts';
import { textPart } from '../parts.ts';

export const stopStep = stepKind({
  key: 'stop',
  about: 'Ends the chain.',
  shape: () => ({
    stop: text('the reason').describe('Why the chain ends here.'),
    as: choice('failed', 'passed').optional().describe('Whether the chain failed (the default) or passed.'),
  }),
  read: (given) => ({ kind: 'stop', text: given.stop, as: given.as ?? 'failed' }),
  parts: ({ text: said }) => textPart(said, 'text'),
  sourceOf: ({ text: said }) => said.source,
});
