import { partsOf, type Node, type PathNode } from './model.ts';

const readNames = new WeakMap<Node, readonly string[]>();

/** The names that an expression reads, each once; worked out once for each expression. */
export function namesRead(tree: Node): readonly string[] {
  let names = readNames.get(tree);
  if (!names) {
    const found = new Set<string>();
    const visit = (node: Node): void => {
      if (node.kind === 'path') {
        if (node.start.kind === 'name') found.add(node.start.name);
        if (node.start.kind === 'body') found.add('$');
      }
      partsOf(node).forEach(visit);
    };
    visit(tree);
    readNames.set(tree, (names = [...found]));
  }
  return names;
}

/** Every path of an expression, those inside others too. */
export function eachPath(tree: Node, visit: (path: PathNode) => void): void {
  if (tree.kind === 'path') visit(tree);
  for (const part of partsOf(tree)) eachPath(part, visit);
}
