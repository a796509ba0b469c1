import { nearest } from '../../diagnostics/suggest.ts';
import { conditions } from './conditions.ts';
import type { FunctionDefinition } from './definition.ts';
import { encodings } from './encodings.ts';
import { files } from './files.ts';
import { items } from './items.ts';
import { kinds } from './kinds.ts';
import { lists } from './lists.ts';
import { marks } from './marks.ts';
import { objects } from './objects.ts';
import { random } from './random.ts';
import { response } from './response.ts';
import { standard } from './standard.ts';
import { texts } from './texts.ts';
import { times } from './times.ts';
import { xml } from './xml.ts';

/** Every function, family by family. A new one is an entry in its family's file; a new family is a line here. */
export const functions: readonly FunctionDefinition[] = [
  ...standard,
  ...conditions,
  ...lists,
  ...items,
  ...objects,
  ...kinds,
  ...texts,
  ...encodings,
  ...times,
  ...random,
  ...response,
  ...xml,
  ...files,
  ...marks,
];

const byName = new Map(functions.map((definition) => [definition.name, definition]));

export function findFunction(name: string): FunctionDefinition | undefined {
  return byName.get(name);
}

/** The function that was meant, by what it does or by spelling. */
export function suggestFunction(name: string): string | undefined {
  const meant =
    functions.find((definition) => definition.alias?.includes(name.toLowerCase()))?.name ??
    nearest(name, byName.keys());
  return meant === undefined ? undefined : `Did you mean ${meant}()?`;
}
