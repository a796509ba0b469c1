import { fileOrConstant } from '../../../schema/leaves.ts';
import { mapping } from '../../../schema/shape.ts';
import type { Expectation } from '../../../http/expectation.ts';
import { because, type ExpectationForm } from './definition.ts';

export const schema: ExpectationForm<'schema'> = {
  key: 'schema',
  about: 'The body conforms to a JSON Schema (2020-12).',
  schema: () =>
    mapping({
      schema: fileOrConstant().describe('The name of a file with a JSON Schema, or the schema itself.'),
      because: because(),
    }).transform((given): Expectation => {
      const { source, file, value } = given.schema;
      const schema = file ? { file } : { inline: value ?? null };
      return { form: 'schema', schema, source, because: given.because?.text };
    }),
  parts: ({ schema: wanted }) => ('file' in wanted ? [{ sort: 'file', source: wanted.file, of: 'schema' }] : []),
};
