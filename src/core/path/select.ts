import { isList, Members, NonJsonValue, type Value } from '../value/value.ts';
import type { Segment, Selector } from './model.ts';

/** Receives each node that a selector finds, with the member name or index at which it stands in its parent. */
type Visit = (child: Value, key: string | number) => void;

/** Hands the children of a node that a selector selects to `visit`, in RFC 9535 order. `C` is what filters evaluate in. */
export type Select<C> = ((node: Value, context: C, visit: Visit) => void) & {
  /** Puts what it selects of a list right into another, where that is faster. */
  into?: (items: readonly Value[], context: C, found: Value[]) => void;
};

/** Whether an item passes a filter, in a context; and a loop over all items of a list where there is one. */
export type Test<C> = Readonly<{
  passes(item: Value, context: C): boolean;
  loop: ((items: readonly Value[], context: C, found: Value[]) => void) | undefined;
}>;

function compileSelector<F, C>(selector: Selector<F>, compileTest: (condition: F) => Test<C>): Select<C> {
  switch (selector.kind) {
    case 'name':
      return selectName(selector.name);
    case 'index':
      return selectIndex(selector.index);
    case 'slice':
      return selectSlice(selector.start, selector.end, selector.step);
    case 'wildcard':
      return (node, _context, visit) => forEachChild(node, visit);
    case 'filter': {
      const { passes, loop } = compileTest(selector.condition);
      const select: Select<C> = (node, context, visit) =>
        forEachChild(node, (child, key) => {
          if (passes(child, context)) visit(child, key);
        });
      return loop ? Object.assign(select, { into: loop }) : select;
    }
  }
}

/** The selectors of a segment one after another, as one; a child that two select comes twice (RFC 9535 section 2.5.1.2). */
export function compileSegment<F, C>(segment: Segment<F>, compileTest: (condition: F) => Test<C>): Select<C> {
  const selects = segment.selectors.map((selector) => compileSelector<F, C>(selector, compileTest));
  if (selects.length === 1) return selects[0]!;
  return (node, context, visit) => {
    for (const select of selects) select(node, context, visit);
  };
}

/** Calls `visit` for each item of a list or each own member of an object; other values have no children. */
export function forEachChild(node: Value, visit: Visit): void {
  if (typeof node !== 'object' || node === null || node instanceof NonJsonValue) return;
  if (isList(node)) {
    for (let i = 0; i < node.length; i++) visit(node[i]!, i);
  } else {
    const names = Object.keys(node);
    for (const name of names) visit(node[name]!, name);
  }
}

type PlainMembers = Readonly<Record<string, Value>>;

/**
 * Reads an own member. A name that no object inherits needs no test for ownership, which makes the common case one
 * property access.
 */
export function memberReader(name: string): (node: Value) => Value | undefined {
  const inherited = name in Object.prototype;
  return (node) => {
    if (typeof node !== 'object' || node === null) return undefined;
    // The objects of a response: told by their prototype, which is faster than asking for each class.
    if (!inherited && Object.getPrototypeOf(node) === Object.prototype) return (node as PlainMembers)[name];
    if (Array.isArray(node)) return undefined;
    if (node instanceof NonJsonValue) return node instanceof Members ? node.member(name) : undefined;
    if (inherited && !Object.hasOwn(node, name)) return undefined;
    return (node as PlainMembers)[name];
  };
}

/** Reads an item by its index, from the end when negative (RFC 9535 section 2.3.3). */
export function itemReader(index: number): (node: Value) => Value | undefined {
  return (node) => (isList(node) ? node[index < 0 ? node.length + index : index] : undefined);
}

function selectName<C>(name: string): Select<C> {
  const read = memberReader(name);
  return (node, _context, visit) => {
    const child = read(node);
    if (child !== undefined) visit(child, name);
  };
}

function selectIndex<C>(index: number): Select<C> {
  return (node, _context, visit) => {
    if (!isList(node)) return;
    const at = index < 0 ? node.length + index : index;
    const child = node[at];
    if (child !== undefined) visit(child, at);
  };
}

/** RFC 9535 section 2.3.4.2.2, bounds and steps as there; a step of 0 selects nothing. */
function selectSlice<C>(start: number | undefined, end: number | undefined, step: number): Select<C> {
  return (node, _context, visit) => {
    if (!isList(node) || step === 0) return;
    const length = node.length;
    const normal = (index: number) => (index < 0 ? length + index : index);
    const clamp = (index: number, low: number, high: number) => Math.min(Math.max(index, low), high);
    if (step > 0) {
      const upper = clamp(normal(end ?? length), 0, length);
      for (let i = clamp(normal(start ?? 0), 0, length); i < upper; i += step) visit(node[i]!, i);
    } else {
      const lower = end === undefined ? -1 : clamp(normal(end), -1, length - 1);
      for (let i = clamp(normal(start ?? length - 1), -1, length - 1); i > lower; i += step) visit(node[i]!, i);
    }
  };
}
