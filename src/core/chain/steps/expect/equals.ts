import * as z from 'zod';
import { pathExpression, sourcedValue } from '../../../schema/leaves.ts';
import { onlyPlaceholder } from '../../../template/template.ts';
import { mapping } from '../../../schema/shape.ts';
import type { Expectation } from '../../../http/expectation.ts';
import { expressionPart, textPart, valueParts } from '../../parts.ts';
import { because, of, type ExpectationForm } from './definition.ts';

export const equals: ExpectationForm<'equals'> = {
  key: 'equals',
  about: 'The body equals a file or a value, except in the places under except.',
  schema: () =>
    mapping({
      equals: sourcedValue().describe(
        'The name of a file, or a value: one that is not a string, or a placeholder alone.',
      ),
      except: z.array(pathExpression()).optional().describe('Paths to places that may differ.'),
      of: of(),
      because: because(),
    }).transform((given): Expectation => {
      const { value, source } = given.equals;
      // A text is the name of a file, unless it is a placeholder alone, which is the value itself; a body that is a text is compared in an expression.
      const wanted = value.kind === 'text' && !onlyPlaceholder(value) ? { file: value } : { value };
      return { form: 'equals', wanted, of: given.of, except: given.except ?? [], source, because: given.because?.text };
    }),
  parts: ({ wanted, except, of: judged }, at) => [
    ...expressionPart(judged, at),
    ...('file' in wanted ? textPart(wanted.file, 'file-read', at) : valueParts(wanted.value, 'value', at)),
    // In these `$` is what is judged, a response or not.
    ...except.flatMap((path) => expressionPart(path, { ...at, response: true })),
  ],
};
