import { showValue } from '../../value/show.ts';
import type { Maybe } from '../../value/value.ts';
import { keysOfPointer, type Misfit } from '../../schema/json-schemas.ts';
import { judgedWords, noBody, placesOf, valueAt } from './places.ts';
import type { Judge } from './definition.ts';

/** The body fits a JSON Schema. */
export const judgeSchema: Judge<'schema'> = ({ schema, of }, { frame, context }) => {
  const compiled =
    'file' in schema ? context.run.schemas.ofFile(schema.file.text) : context.run.schemas.ofValue(schema.inline);
  if ('problem' in compiled) return { passed: false, ...compiled.problem };
  const { body } = frame;
  if (body === undefined) return noBody;
  const misfits = compiled.misfits(body);
  if (misfits.length === 0) return { passed: true };
  const places = misfits.map((misfit) => {
    const keys = keysOfPointer(misfit.pointer, body);
    return { keys, text: wordsFor(misfit, valueAt(body, keys)) };
  });
  const name = 'file' in schema ? schema.file.text : 'the schema';
  return {
    passed: false,
    code: 'expectation-false',
    message: `${judgedWords(of)} does not conform to ${name}`,
    ...placesOf(places),
  };
};

function wordsFor({ schemaPointer, message }: Misfit, found: Maybe): string {
  const what = /^must( not)? have the member/.test(message) ? '' : `, not ${showValue(found, 60)}`;
  return `${message}${what} (schema ${schemaPointer})`;
}
