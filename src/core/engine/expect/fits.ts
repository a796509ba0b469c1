import { writtenPath } from '../../path/normalized.ts';
import { showValue } from '../../value/show.ts';
import type { Value } from '../../value/value.ts';
import { keysOfPointer, type Misfit } from '../../schema/json-schemas.ts';
import { noBody, placesOf, valueAt } from './places.ts';
import type { Judge } from './definition.ts';

/** The body fits a JSON Schema. */
export const judgeFits: Judge<'fits'> = ({ schema }, { frame, context }) => {
  const compiled = 'file' in schema ? context.schemas.ofFile(schema.file.text) : context.schemas.ofValue(schema.inline);
  if ('problem' in compiled) return { held: false, ...compiled.problem };
  const { body } = frame;
  if (body === undefined) return noBody;
  const misfits = compiled.misfits(body);
  if (misfits.length === 0) return { held: true };
  const places = misfits.map((misfit) => ({ path: pathOf(misfit, body), text: wordsFor(misfit, body) }));
  const name = 'file' in schema ? schema.file.text : 'the schema';
  return { held: false, code: 'not-held', message: `The body does not fit ${name}`, ...placesOf(places) };
};

function pathOf({ pointer }: Misfit, body: Value): string {
  return writtenPath(keysOfPointer(pointer, body), '$');
}

function wordsFor({ pointer, schemaPointer, message }: Misfit, body: Value): string {
  const found = valueAt(body, keysOfPointer(pointer, body));
  const what = /^must( not)? have the member/.test(message) ? '' : `, and is ${showValue(found, 60)}`;
  return `${message}${what} (schema ${schemaPointer})`;
}
