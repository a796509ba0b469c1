import { partsOf, type Node } from './model.ts';
import { isCondition } from './typing.ts';

/** Functions whose results say too little of their argument to give it away. */
const TELLING_LITTLE: ReadonlySet<string> = new Set(['length', 'count', 'exists', 'type_of']);

/** What stands for a value that only `secret(...)` marks; a `keep` gives it its own name. */
export const MARKED = 'secret';

/** Says under which name the value of a name is masked; nothing for one that is no secret. */
export type SecretLookup = Readonly<{ get(name: string): string | undefined }>;

/**
 * The secret that an expression's value depends on, decided by its text alone: what it reads of `secret.*`, or of
 * names that were bound from secrets. `undefined` when its value is not secret.
 */
export function secretIn(tree: Node, secretNames: SecretLookup): string | undefined {
  if (isCondition(tree) || (tree.kind === 'call' && TELLING_LITTLE.has(tree.name))) return undefined;
  if (tree.kind === 'call' && tree.name === 'secret') return MARKED;
  if (tree.kind === 'path' && tree.start.kind === 'name') {
    const { name } = tree.start;
    const selector = tree.segments[0]?.selectors[0];
    if (name === 'secret') return selector?.kind === 'name' ? selector.name : 'secret';
    // Cookies are credentials, whatever they hold.
    if (name === 'cookies' || (name === 'response' && selector?.kind === 'name' && selector.name === 'cookies'))
      return MARKED;
    const known = secretNames.get(name);
    if (known !== undefined) return known;
  }
  for (const part of partsOf(tree)) {
    const found = secretIn(part, secretNames);
    if (found !== undefined) return found;
  }
  return undefined;
}
