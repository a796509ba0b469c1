import { partsOf, type Node } from './model.ts';
import { isCondition } from './typing.ts';

/** Functions whose results say too little of their argument to give it away. */
const TELLING_LITTLE: ReadonlySet<string> = new Set(['length', 'count', 'exists', 'type_of']);

/** What stands for a value that only `secret(...)` marks; a name that is bound to it gives it its own. */
const MARKED = 'secret';

/**
 * One thing that makes a value secret, and so decides where it may be sent: a secret of the project, or a mark by the
 * chain. A marked value belongs to the server that gave it (`from`: an api, or the origin of a server that is none), and to
 * the apis named with it; one that no server gave belongs to the project.
 */
export type Mark = Readonly<{ secret: string }> | Readonly<{ secret?: never; from?: string; also: readonly string[] }>;

/** Why a value is secret, and under which name it is masked. */
export type Secrecy = Readonly<{ name: string; marks: readonly Mark[] }>;

/** Says why the value of a name is secret; nothing for one that is not. */
export type SecretLookup = Readonly<{ get(name: string): Secrecy | undefined }>;

/** The secrecy of what a person or the chain itself makes secret, which no server gave. */
export const ownSecret = (name: string): Secrecy => ({ name, marks: [{ also: [] }] });

/** A secrecy for a name that is bound to its value: what is only marked is masked under that name. */
export function boundTo(name: string, secrecy: Secrecy): Secrecy {
  return secrecy.name === MARKED ? { ...secrecy, name } : secrecy;
}

/** Of two values that are put together: secret by both, masked under the first that has a name. */
export function joined(one: Secrecy | undefined, other: Secrecy | undefined): Secrecy | undefined {
  if (!one || !other) return one ?? other;
  return { name: one.name === MARKED ? other.name : one.name, marks: [...one.marks, ...other.marks] };
}

/**
 * Why an expression's value is secret, decided by its text alone: what it reads of `secret.*`, of cookies, or of names
 * that were bound from secrets. `undefined` when it is not. `from` is the server whose response it reads.
 */
export function secretIn(tree: Node, secretNames: SecretLookup, from?: string): Secrecy | undefined {
  if (isCondition(tree) || (tree.kind === 'call' && TELLING_LITTLE.has(tree.name))) return undefined;
  const here = secretAt(tree, secretNames, from);
  return partsOf(tree).reduce((found, part) => joined(found, secretIn(part, secretNames, from)), here);
}

/** What makes this very node secret, its parts aside. */
// eslint-disable-next-line complexity -- a branch for each way in which a node is secret
function secretAt(tree: Node, secretNames: SecretLookup, from: string | undefined): Secrecy | undefined {
  if (tree.kind === 'call' && tree.name === 'secret') {
    const [, also] = tree.args;
    return marked(from, also?.kind === 'literal' && typeof also.value === 'string' ? [also.value] : []);
  }
  if (tree.kind !== 'path' || tree.start.kind !== 'name') return undefined;
  const { name } = tree.start;
  const selector = tree.segments[0]?.selectors[0];
  const member = selector?.kind === 'name' ? selector.name : name;
  if (name === 'secret') return { name: member, marks: [{ secret: member }] };
  // Cookies are credentials, whatever they hold.
  const isCookies = name === 'cookies' || (name === 'response' && member === 'cookies');
  return isCookies ? marked(from, []) : secretNames.get(name);
}

function marked(from: string | undefined, also: readonly string[]): Secrecy {
  return { name: MARKED, marks: [from === undefined ? { also } : { from, also }] };
}
