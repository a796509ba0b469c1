import * as z from 'zod';
import { expression, type Expression } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { stepReader } from './definition.ts';

const to = mapping({
  to: expression('a date-time').describe('The time to wait for; a time in the past does not wait.'),
});

export const waitStep = stepReader({
  key: 'wait',
  about: 'Pauses for a duration, or until a time.',
  shape: () => ({
    wait: z
      .union([expression('a duration such as 2s').transform((each): { for: Expression } => ({ for: each })), to])
      .describe('A duration such as 2s, or {to: ...} with a date-time.'),
  }),
  read: (given) => ({ kind: 'wait', ...given.wait }),
});
