import { sourcedValue } from '../../../schema/leaves.ts';
import { mapping } from '../../../schema/shape.ts';
import type { Expectation } from '../../../http/expectation.ts';
import { valueParts } from '../../parts.ts';
import { because, type ExpectationForm } from './definition.ts';

export const includes: ExpectationForm<'includes'> = {
  key: 'includes',
  about: 'The body contains at least this: members of objects, and the items of arrays one by one.',
  schema: () =>
    mapping({
      includes: sourcedValue().describe('The value; its strings may have placeholders.'),
      because: because(),
    }).transform((given): Expectation => ({ form: 'includes', ...given.includes, because: given.because?.text })),
  parts: ({ value }, at) => valueParts(value, 'value', at),
};
