import { expression } from '../../../schema/leaves.ts';
import { mapping } from '../../../schema/shape.ts';
import type { Expectation } from '../../../http/expectation.ts';
import { conditionPart } from '../../parts.ts';
import { because, type ExpectationForm } from './definition.ts';

export const that: ExpectationForm<'that'> = {
  key: 'that',
  about: 'An expression that must be true, with a reason.',
  schema: () =>
    mapping({
      that: expression('an expression that must be true').describe('An expression that must be true.'),
      because: because(),
    }).transform((given): Expectation => ({ form: 'that', expression: given.that, because: given.because?.text })),
  parts: ({ expression: condition }, at) => conditionPart(condition, at),
};
