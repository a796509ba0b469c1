import { isList, NonJsonValue, type Value } from '../value/value.ts';
import { isSingular, type Segment } from './model.ts';
import { compileSegment, itemReader, memberReader, type Select, type Test } from './select.ts';

/** Thrown when a path finds more nodes than allowed; stops `$..[*]..[*]` on a large document. */
export class TooManyNodes extends Error {}

/** Nodes that one path may find. */
export const MAX_NODES = 5_000_000;

/** A node and how it is reached: a chain of parents up to the node where the path began. */
export type Located = Readonly<{ value: Value; key: string | number; parent: Located | undefined }>;

type Compiled<C> = readonly Readonly<{ descends: boolean; select: Select<C> }>[];

export type CompiledPath<C> = Readonly<{
  /** The value that a singular path finds, or nothing. Only for singular paths. */
  one(root: Value, context: C): Value | undefined;
  /** The values that the path finds, in RFC 9535 order. */
  all(root: Value, context: C): Value[];
  /** The nodes with their places. Slower: for output and messages, not for requests. */
  locate(root: Value, context: C): Located[];
}>;

/** Turns segments into functions once, so that evaluating decides nothing that the text has decided already. */
export function compilePath<F, C>(
  segments: readonly Segment<F>[],
  compileTest: (condition: F) => Test<C>,
  maxNodes: number = MAX_NODES,
): CompiledPath<C> {
  const compiled: Compiled<C> = segments.map((segment) => ({
    descends: segment.descends,
    select: compileSegment<F, C>(segment, compileTest),
  }));
  const one = isSingular(segments) ? compileSingular(segments) : undefined;
  return {
    one: (root) => one!(root),
    all: (root, context) => allValues(compiled, root, context, maxNodes),
    locate: (root, context) => allNodes(compiled, root, context, maxNodes),
  };
}

/** A path of names and indexes as a function of the value where it starts. */
export function compileSingular<F>(segments: readonly Segment<F>[]): (root: Value) => Value | undefined {
  const readers = segments.map(({ selectors: [selector] }) =>
    selector!.kind === 'name' ? memberReader(selector!.name) : itemReader((selector as { index: number }).index),
  );
  const [first, second] = readers;
  if (readers.length === 1) return first!;
  if (readers.length === 2) {
    return (root) => {
      const value = first!(root);
      return value === undefined ? undefined : second!(value);
    };
  }
  return (root) => {
    let value: Value | undefined = root;
    for (const read of readers) {
      value = read(value);
      if (value === undefined) return undefined;
    }
    return value;
  };
}

function allValues<C>(compiled: Compiled<C>, root: Value, context: C, maxNodes: number): Value[] {
  let values: Value[] = [root];
  for (const { descends, select } of compiled) {
    const found: Value[] = [];
    const visit = (child: Value) => {
      if (found.push(child) > maxNodes) throw new TooManyNodes();
    };
    if (descends) {
      for (const value of values) descend(value, (node) => select(node, context, visit));
    } else {
      for (const value of values) {
        if (select.into && isList(value)) select.into(value, context, found);
        else select(value, context, visit);
      }
      if (found.length > maxNodes) throw new TooManyNodes();
    }
    values = found;
  }
  return values;
}

/**
 * Visits a value and everything in it, parents before children, children in order (RFC 9535 section 2.5.2.2).
 * A stack of its own instead of recursion, so that depth costs memory and never the call stack.
 */
function descend(root: Value, visit: (node: Value) => void): void {
  const stack: Value[] = [root];
  while (stack.length > 0) {
    const node = stack.pop()!;
    visit(node);
    if (typeof node !== 'object' || node === null || node instanceof NonJsonValue) continue;
    // Scalars have no children and no selector finds any in them, so they never reach the stack.
    if (isList(node)) {
      for (let i = node.length - 1; i >= 0; i--) {
        const item = node[i]!;
        if (typeof item === 'object' && item !== null) stack.push(item);
      }
    } else {
      const names = Object.keys(node);
      for (let i = names.length - 1; i >= 0; i--) {
        const member = node[names[i]!]!;
        if (typeof member === 'object' && member !== null) stack.push(member);
      }
    }
  }
}

function allNodes<C>(compiled: Compiled<C>, root: Value, context: C, maxNodes: number): Located[] {
  let nodes: Located[] = [{ value: root, key: '', parent: undefined }];
  for (const { descends, select } of compiled) {
    const found: Located[] = [];
    const collect = (parent: Located) =>
      select(parent.value, context, (value, key) => {
        if (found.push({ value, key, parent }) > maxNodes) throw new TooManyNodes();
      });
    for (const node of nodes) {
      if (descends) descendLocated(node, collect);
      else collect(node);
    }
    nodes = found;
  }
  return nodes;
}

function descendLocated(root: Located, visit: (node: Located) => void): void {
  const stack: Located[] = [root];
  while (stack.length > 0) {
    const parent = stack.pop()!;
    visit(parent);
    const { value } = parent;
    if (typeof value !== 'object' || value === null || value instanceof NonJsonValue) continue;
    if (isList(value)) {
      for (let i = value.length - 1; i >= 0; i--) stack.push({ value: value[i]!, key: i, parent });
    } else {
      const members = value as Readonly<Record<string, Value>>;
      const names = Object.keys(members);
      for (let i = names.length - 1; i >= 0; i--) stack.push({ value: members[names[i]!]!, key: names[i]!, parent });
    }
  }
}
