import type { Range } from '../diagnostics/problem.ts';
import type { Segment } from '../path/model.ts';
import type { Value } from '../value/value.ts';

const COMPARISONS = ['==', '!=', '<=', '>=', '<', '>', 'in'] as const;
export type Comparison = (typeof COMPARISONS)[number];
export type Arithmetic = '+' | '-' | '*' | '/' | '%';
export type Operator = '||' | '&&' | Comparison | Arithmetic | '??';

/** Where a path starts: this response's body, the item of a filter, a name in scope, or another expression. */
export type Start =
  | Readonly<{ kind: 'body' }>
  | Readonly<{ kind: 'item' }>
  | Readonly<{ kind: 'name'; name: string; range: Range }>
  | Readonly<{ kind: 'value'; node: Node }>;

export type PathNode = Readonly<{ kind: 'path'; range: Range; start: Start; segments: readonly Segment<Node>[] }>;
export type CallNode = Readonly<{ kind: 'call'; range: Range; name: string; nameRange: Range; args: readonly Node[] }>;
export type BinaryNode = Readonly<{
  kind: 'binary';
  range: Range;
  operator: Operator;
  operatorRange: Range;
  left: Node;
  right: Node;
}>;

/** An expression as a tree. Groups are kept, so that printing gives the source's own shape back. */
export type Node =
  | Readonly<{ kind: 'literal'; range: Range; value: Value }>
  | Readonly<{ kind: 'list'; range: Range; items: readonly Node[] }>
  | PathNode
  | CallNode
  | Readonly<{ kind: 'group'; range: Range; inner: Node }>
  | Readonly<{ kind: 'not'; range: Range; operand: Node }>
  | Readonly<{ kind: 'negative'; range: Range; operand: Node }>
  | BinaryNode;

export function isComparison(operator: Operator): operator is Comparison {
  return (COMPARISONS as readonly string[]).includes(operator);
}

/** The node inside any parentheses around it. */
export function ungrouped(node: Node): Node {
  return node.kind === 'group' ? ungrouped(node.inner) : node;
}

/** The direct parts of a node, filters of its segments included, in the order of the text. */
export function partsOf(node: Node): readonly Node[] {
  switch (node.kind) {
    case 'literal':
      return [];
    case 'list':
      return node.items;
    case 'path':
      return [...(node.start.kind === 'value' ? [node.start.node] : []), ...filtersOf(node)];
    case 'call':
      return node.args;
    case 'group':
      return [node.inner];
    case 'not':
    case 'negative':
      return [node.operand];
    case 'binary':
      return [node.left, node.right];
  }
}

const NONE: readonly Node[] = [];

/** The conditions of the filters in a path's own segments. */
export function filtersOf(path: PathNode): readonly Node[] {
  let found: Node[] | undefined;
  for (const { selectors } of path.segments) {
    for (const selector of selectors) if (selector.kind === 'filter') (found ??= []).push(selector.condition);
  }
  return found ?? NONE;
}
