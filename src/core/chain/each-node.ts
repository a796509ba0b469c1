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

/** Every node of an expression, and whether it is in a filter, or in the argument of a function over items. */
export function eachNode(tree: Node, visit: (node: Node, inside: Inside) => void, inside: Inside = OUTSIDE): void {
  visit(tree, inside);
  if (tree.kind === 'path') {
    if (tree.start.kind === 'value') eachNode(tree.start.node, visit, inside);
    for (const condition of filtersOf(tree)) eachNode(condition, visit, { filter: true, item: true, maybe: false });
  } else if (tree.kind === 'call') {
    const parameters = findFunction(tree.name)?.parameters ?? [];
    tree.args.forEach((argument, i) => {
      const sort = parameters[i]?.sort ?? '';
      if (/^item/.test(sort)) eachNode(argument, visit, { filter: false, item: true, maybe: false });
      else if (sort === 'presence' || sort === 'maybe') eachNode(argument, visit, { ...inside, maybe: true });
      else eachNode(argument, visit, inside);
    });
  } else if (tree.kind === 'binary' && tree.operator === '??') {
    eachNode(tree.left, visit, { ...inside, maybe: true });
    eachNode(tree.right, visit, inside);
  } else {
    for (const part of partsOf(tree)) eachNode(part, visit, inside);
  }
}
