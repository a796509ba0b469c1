import { onceOf } from '../once.ts';
import { partsOf, type Node, type PathNode } from './model.ts';

/** The names that an expression reads, each once; worked out once for each expression. */
export const namesRead = onceOf((tree: Node): readonly string[] => {
  const found = new Set<string>();
  const visit = (node: Node): void => {
    if (node.kind === 'path') {
      if (node.start.kind === 'name') found.add(node.start.name);
      if (node.start.kind === 'body') found.add('$');
    }
    partsOf(node).forEach(visit);
  };
  visit(tree);
  return [...found];
});

/** Every path of an expression, those inside others too. */
export function eachPath(tree: Node, visit: (path: PathNode) => void): void {
  if (tree.kind === 'path') visit(tree);
  for (const part of partsOf(tree)) eachPath(part, visit);
}
