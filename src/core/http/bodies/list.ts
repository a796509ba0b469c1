import { bindBody, type Body, type BodyKind } from './definition.ts';
import { json } from './json.ts';

/** Every kind of request body; a new one is a file and a line here. */
const kinds = [json] as unknown as readonly BodyKind<unknown>[];

/** The keys of a call that give it a body, with their schemas. */
export const bodyShape = { json: json.schema.optional() };

/** The bodies that a call says; at most one is allowed. */
export function bodiesOf(given: Readonly<Record<string, unknown>>): readonly Body[] {
  return kinds.flatMap((kind) => (given[kind.key] === undefined ? [] : [bindBody(kind, given[kind.key])]));
}
