import type { Evaluate } from './frame.ts';
import type { Node, PathNode } from './model.ts';

/** What a path starts from; `compileNode` is that of the place where the path stands. */
export function compileStart({ start }: PathNode, compileNode: (node: Node) => Evaluate): Evaluate {
  switch (start.kind) {
    case 'body':
      return (frame) => frame.body;
    case 'item':
      return (frame) => frame.item;
    case 'name':
      return (frame) => frame.name(start.name);
    case 'value':
      return compileNode(start.node);
  }
}
