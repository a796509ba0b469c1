import { sourcedValue } from '../../../schema/leaves.ts';
import { mapping } from '../../../schema/shape.ts';
import type { Expectation } from '../../../http/expectation.ts';
import { expressionPart, valueParts } from '../../parts.ts';
import { because, of, type ExpectationForm } from './definition.ts';

export const includes: ExpectationForm<'includes'> = {
  key: 'includes',
  about: 'The body contains at least this: members of objects, and the items of arrays one by one.',
  schema: () =>
    mapping({
      includes: sourcedValue().describe('The value; its strings may have placeholders.'),
      of: of(),
      because: because(),
    }).transform((given): Expectation => ({
      form: 'includes',
      ...given.includes,
      of: given.of,
      because: given.because?.text,
    })),
  parts: ({ value, of: judged }, at) => [...expressionPart(judged, at), ...valueParts(value, 'value', at)],
};
