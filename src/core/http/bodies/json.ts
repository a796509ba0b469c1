import { jsonValue } from '../../schema/leaves.ts';
import { fillJson } from '../../template/fill.ts';
import { namedTexts, textsOf, type ValueTemplate } from '../../template/template.ts';
import type { BodyKind } from './definition.ts';

/** A JSON body (RFC 8259), built as a value and written once; kinds are kept and members stay in the order written. */
export const json: BodyKind<ValueTemplate> = {
  key: 'json',
  schema: jsonValue().describe('A JSON body; a string that is one placeholder keeps the type of its value.'),
  type: () => 'application/json',
  texts: textsOf,
  named: (value) => namedTexts(value),
  json: (value) => value,
  build: (template, resolver) => fillJson(template, resolver) ?? 'null',
};
