import { findFunction } from '../expression/functions/list.ts';
import { filtersOf, partsOf, type Node } from '../expression/model.ts';

/** Where a node stands inside its expression. */
export type Inside = Readonly<{
  filter: boolean;
  item: boolean;
  /** Whether nothing is allowed there: left of `??`, or in a function that asks whether something is there. */
  maybe: boolean;
}>;

const OUTSIDE: Inside = { filter: false, item: false, maybe: false };
const IN_FILTER: Inside = { filter: true, item: true, maybe: false };
const OVER_ITEMS: Inside = { filter: false, item: true, maybe: false };

type Entry = Readonly<{ node: Node; inside: Inside }>;

/** The nodes of each tree, listed once: every rule goes through all of them. */
const lists = new WeakMap<Node, readonly Entry[]>();

/** Every node of an expression, and whether it is in a filter, or in the argument of a function over items. */
export function eachNode(tree: Node, visit: (node: Node, inside: Inside) => void): void {
  let list = lists.get(tree);
  if (!list) {
    const found: Entry[] = [];
    collect(tree, OUTSIDE, found);
    lists.set(tree, (list = found));
  }
  for (const { node, inside } of list) visit(node, inside);
}

function collect(tree: Node, inside: Inside, found: Entry[]): void {
  found.push({ node: tree, inside });
  if (tree.kind === 'path') {
    if (tree.start.kind === 'value') collect(tree.start.node, inside, found);
    for (const condition of filtersOf(tree)) collect(condition, IN_FILTER, found);
  } else if (tree.kind === 'call') {
    const parameters = findFunction(tree.name)?.parameters ?? [];
    tree.args.forEach((argument, i) => {
      const sort = parameters[i]?.sort;
      if (sort === 'item' || sort === 'itemCondition') collect(argument, OVER_ITEMS, found);
      else if (sort === 'presence' || sort === 'maybe') collect(argument, { ...inside, maybe: true }, found);
      else collect(argument, inside, found);
    });
  } else if (tree.kind === 'binary' && tree.operator === '??') {
    collect(tree.left, { ...inside, maybe: true }, found);
    collect(tree.right, inside, found);
  } else {
    for (const part of partsOf(tree)) collect(part, inside, found);
  }
}
