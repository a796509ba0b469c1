import * as z from 'zod';
import { expression, type Expression } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { stepKind } from './definition.ts';
import { expressionPart } from '../parts.ts';

const to = mapping({
  to: expression('a date-time').describe('The time to wait for; a time in the past does not wait.'),
});

export const waitStep = stepKind({
  key: 'wait',
  about: 'Pauses for a duration, or until a time.',
  shape: () => ({
    wait: z
      .union([expression('a duration such as 2s').transform((each): { for: Expression } => ({ for: each })), to])
      .describe('A duration such as 2s, or {to: ...} with a date-time.'),
  }),
  read: (given) => ({ kind: 'wait', ...given.wait }),
  parts: (step) => expressionPart('for' in step ? step.for : step.to),
  nameOf: (step) => ('for' in step ? step.for : step.to).source.text.trim(),
  sourceOf: (step) => ('for' in step ? step.for : step.to).source,
});
