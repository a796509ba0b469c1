import { valueAt } from '../../value/value.ts';
import { keysOfPointer, misfitWords } from '../../schema/json-schemas.ts';
import { judgedWords, noBody, placesOf } from './places.ts';
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
    return { keys, text: `${misfitWords(misfit, valueAt(body, keys))} (schema ${misfit.schemaPointer})` };
  });
  const name = 'file' in schema ? schema.file.text : 'the schema';
  return {
    passed: false,
    code: 'expectation-false',
    message: `${judgedWords(of)} does not conform to ${name}`,
    ...placesOf(places),
  };
};
