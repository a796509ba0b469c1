import { nearest } from '../../diagnostics/suggest.ts';
import { conditions } from './conditions.ts';
import type { FunctionDefinition } from './definition.ts';
import { encodings } from './encodings.ts';
import { files } from './files.ts';
import { items } from './items.ts';
import { types } from './types.ts';
import { arrays } from './arrays.ts';
import { secrets } from './secrets.ts';
import { objects } from './objects.ts';
import { random } from './random.ts';
import { response } from './response.ts';
import { standard } from './standard.ts';
import { strings } from './strings.ts';
import { times } from './times.ts';
import { tokens } from './tokens.ts';
import { xml } from './xml.ts';

/**
 * Every family of functions, with its heading in the reference. A new function is an entry in its family's file; a new
 * family is a line here.
 */
export const families: readonly (readonly [heading: string, family: readonly FunctionDefinition[]])[] = [
  ['RFC 9535', standard],
  ['Presence and choice', conditions],
  ['Arrays', arrays],
  ['Array processing', items],
  ['Objects', objects],
  ['Types', types],
  ['Strings', strings],
  ['Encodings and digests', encodings],
  ['Tokens', tokens],
  ['Time', times],
  ['Random values', random],
  ['Response', response],
  ['XML', xml],
  ['Files', files],
  ['Secrets', secrets],
];

export const functions: readonly FunctionDefinition[] = families.flatMap(([, family]) => family);

const byName = new Map(functions.map((definition) => [definition.name, definition]));

export function findFunction(name: string): FunctionDefinition | undefined {
  return byName.get(name);
}

/** The function that does what a word from elsewhere means. */
export function functionMeant(word: string): string | undefined {
  return functions.find(({ alias }) => alias?.includes(word.toLowerCase()))?.name;
}

/** The function that was meant, by what it does or by spelling. */
export function suggestFunction(name: string): string | undefined {
  return functionMeant(name) ?? nearest(name, byName.keys());
}
