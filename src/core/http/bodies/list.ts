import { bindBody, type Body, type BodyKind } from './definition.ts';
import { form } from './form.ts';
import { json } from './json.ts';
import { text } from './text.ts';

/** Every kind of request body; a new one is a file and a line here. */
const kinds = [json, form, text] as unknown as readonly BodyKind<unknown>[];

/** The keys of a call that give it a body, with their schemas. */
export const bodyShape = {
  json: json.schema.optional(),
  form: form.schema.optional(),
  text: text.schema.optional(),
};

/** The bodies that a call says; at most one is allowed. */
export function bodiesOf(given: Readonly<Record<string, unknown>>): readonly Body[] {
  return kinds.flatMap((kind) => (given[kind.key] === undefined ? [] : [bindBody(kind, given[kind.key])]));
}
