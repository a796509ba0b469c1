import type { Expression } from '../schema/leaves.ts';
import { namesRead } from '../expression/names-read.ts';
import type { Chain } from './model.ts';
import { stepsOf } from './steps/inside.ts';
import { walkChain } from './walk.ts';

const NO_SURROUNDINGS = { endpointOf: () => undefined };
const known = new WeakMap<Chain, ReadonlySet<string>>();

/**
 * Tables and gathered lists of a chain that nothing reads but the heads of loops and `write` with `rows`: what is only gone
 * over need not be held, however long it is.
 */
export function streamableLists(chain: Chain): ReadonlySet<string> {
  let names = known.get(chain);
  if (!names) {
    const steps = stepsOf(chain);
    const lists = steps.flatMap((step) =>
      step.kind === 'each' ? [step.list] : step.kind === 'write' ? [step.rows] : [],
    );
    const walked = new Set(lists.flatMap((list) => (bareName(list) === undefined ? [] : [list!.tree])));
    const read = new Set<string>();
    const expression = (tree: NonNullable<Expression['tree']>): void => {
      if (!walked.has(tree)) for (const name of namesRead(tree)) read.add(name);
    };
    walkChain(chain, NO_SURROUNDINGS, [{ expression }]);
    const tables = chain.inputs.flatMap(({ name, type }) => (type === 'table' ? [name] : []));
    const gathered = steps.flatMap((step) => (step.kind === 'each' ? step.gather.map(({ name }) => name) : []));
    known.set(chain, (names = new Set([...tables, ...gathered].filter((name) => !read.has(name)))));
  }
  return names;
}

/** The name that an expression is, and nothing else. */
export function bareName(expression: Expression | undefined): string | undefined {
  const tree = expression?.tree;
  if (tree?.kind !== 'path' || tree.segments.length > 0 || tree.start.kind !== 'name') return undefined;
  return tree.start.name;
}
