import * as z from 'zod';
import { pathExpression, sourcedValue } from '../../../schema/leaves.ts';
import { mapping } from '../../../schema/shape.ts';
import type { Expectation } from '../../../http/expectation.ts';
import { expressionPart, textPart, valueParts } from '../../parts.ts';
import { because, type ExpectationForm } from './definition.ts';

export const equals: ExpectationForm<'equals'> = {
  key: 'equals',
  about: 'The body equals a file or a value, except in the places under except.',
  schema: () =>
    mapping({
      equals: sourcedValue().describe('The name of a file, or a value that is not a string.'),
      except: z.array(pathExpression()).optional().describe('Paths to places that may differ.'),
      because: because(),
    }).transform((given): Expectation => {
      const { value, source } = given.equals;
      // A text is the name of a file; a body that is a text is compared in an expression.
      const wanted = value.kind === 'text' ? { file: value } : { value };
      return { form: 'equals', wanted, except: given.except ?? [], source, because: given.because?.text };
    }),
  parts: ({ wanted, except }, at) => [
    ...('file' in wanted ? textPart(wanted.file, 'file-read', at) : valueParts(wanted.value, 'value', at)),
    ...except.flatMap((path) => expressionPart(path, at)),
  ],
};
