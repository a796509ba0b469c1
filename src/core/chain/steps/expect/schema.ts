import { fileOrConstant } from '../../../schema/leaves.ts';
import { mapping } from '../../../schema/shape.ts';
import type { Expectation } from '../../../http/expectation.ts';
import { expressionPart } from '../../parts.ts';
import { because, of, type ExpectationForm } from './definition.ts';

export const schema: ExpectationForm<'schema'> = {
  key: 'schema',
  about: 'The body conforms to a JSON Schema (2020-12).',
  schema: () =>
    mapping({
      schema: fileOrConstant().describe('The name of a file with a JSON Schema, or the schema itself.'),
      of: of(),
      because: because(),
    }).transform((given): Expectation => {
      const { source, file, value } = given.schema;
      const schema = file ? { file } : { inline: value ?? null };
      return { form: 'schema', schema, source, of: given.of, because: given.because?.text };
    }),
  parts: ({ schema: wanted, of: judged }, at) => [
    ...expressionPart(judged, at),
    ...('file' in wanted ? [{ sort: 'file' as const, source: wanted.file, of: 'schema' as const }] : []),
  ],
};
