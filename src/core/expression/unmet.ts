import type { Problem } from '../diagnostics/problem.ts';
import { compilePath, compileSingular } from '../path/evaluate.ts';
import { isSingular } from '../path/model.ts';
import { aType, counted, nameList, showValue } from '../value/show.ts';
import { isList, isObject, NonJsonValue, typeOf, type Value } from '../value/value.ts';
import type { Frame } from './frame.ts';
import { findFunction } from './functions/list.ts';
import { isComparison, partsOf, ungrouped, type CallNode, type Node, type PathNode } from './model.ts';
import { printExpression } from './print.ts';

/** Says whether a path over a list is nothing because no item has what it looks for, and notes what no item has. */
type Unmet = (from: Value, found: readonly Value[], frame: Frame) => boolean;

/**
 * For a path from its first segment that finds many on. A member that every item lacks makes it nothing in an expectation,
 * and is a note elsewhere; what every item lacks that a filter reads is a note anywhere.
 */
export function compileUnmet(path: PathNode): Unmet {
  const { segments } = path;
  const [first] = segments;
  const isAnywhere = segments.some(({ descends }) => descends);
  const conditions = first!.selectors.flatMap((selector) => (selector.kind === 'filter' ? [selector.condition] : []));
  const readers = conditions.flatMap((condition) => readersOf(condition, true));
  const lacking = segments.findIndex((segment, i) => i > 0 && isSingular([segment]));
  return (from, found, frame) => {
    if (readers.length > 0) noteUnread(readers, itemsOf(from), frame);
    if (found.length > 0 || isAnywhere || lacking < 0) return false;
    const missed = missedBy(path, from, frame);
    if (!missed) return false;
    if (frame.judges) return true;
    note(frame, missed.range, `"${missed.text}" was in none of ${missed.items}`);
    return false;
  };
}

/** The first member on the way of a path that none of the items has which were found before it. */
function missedBy({ segments }: PathNode, from: Value, frame: Frame) {
  let nodes: readonly Value[] = [from];
  for (const segment of segments) {
    const before = nodes;
    // A filter decides with the frame's own help, and was asked already: here only what is plain is gone over again.
    if (segment.selectors.some(({ kind }) => kind === 'filter')) return undefined;
    const one = compilePath<Node, Frame>([segment], () => ({ passes: () => true, loop: undefined }));
    nodes = before.flatMap((value) => one.all(value, frame));
    if (nodes.length > 0) continue;
    if (!isSingular([segment])) return undefined;
    const [selector] = segment.selectors;
    const text = selector!.kind === 'name' ? selector!.name : `[${(selector as { index: number }).index}]`;
    return { range: segment.range, text, items: itemWords(before) };
  }
  return undefined;
}

/** A path over `@` in a condition, and how it is read of an item. */
type Reader = Readonly<{
  path: PathNode;
  read: (item: Value) => Value | undefined;
  /** The constant that it is compared with. */
  beside: Value | undefined;
}>;

/** What a condition reads of each item, but for what it allows to be missing. `isFilter`: a path by itself asks whether it is there. */
export function readersOf(condition: Node, isFilter: boolean): readonly Reader[] {
  const found: Reader[] = [];
  const visit = (node: Node, isTest: boolean, beside?: Value): void => {
    if (node.kind === 'path') return visitPath(node, isTest, beside);
    if (node.kind === 'call') return visitCall(node);
    if (node.kind === 'binary' && node.operator === '??') return visit(node.right, false);
    if (node.kind === 'binary' && isComparison(node.operator) && node.operator !== 'in') {
      visit(node.left, false, constantOf(node.right));
      return visit(node.right, false, constantOf(node.left));
    }
    for (const part of partsOf(node)) visit(part, isFilter && isLogical(node));
  };
  const visitPath = (node: PathNode, isTest: boolean, beside: Value | undefined): void => {
    const { start, segments } = node;
    if (start.kind === 'item' && isSingular(segments) && segments.length > 0 && !isTest)
      found.push({ path: node, read: compileSingular(segments), beside });
    if (start.kind === 'value') visit(start.node, false);
  };
  const visitCall = ({ name, args }: CallNode): void => {
    const sorts = findFunction(name)?.parameters.map(({ sort }) => sort) ?? [];
    args.forEach((argument, i) => {
      // Another `@`, or what may be nothing.
      if (!/^(?:item|itemCondition|presence|maybe|lazy|nodes)$/.test(sorts[i] ?? '')) visit(argument, false);
    });
  };
  visit(ungrouped(condition), isFilter);
  return found;
}

/** What makes a condition of conditions. */
function isLogical(node: Node): boolean {
  return (
    node.kind === 'group' || node.kind === 'not' || (node.kind === 'binary' && /^(?:&&|\|\|)$/.test(node.operator))
  );
}

/** Notes what is nothing for every item of a list that has any. In most lists the first item settles it. */
export function noteUnread(readers: readonly Reader[], items: readonly Value[], frame: Frame): void {
  if (items.length === 0) return;
  for (const { path, read, beside } of readers) {
    if (!items.some((item) => read(item) !== undefined))
      note(frame, path.range, `${printExpression(path)} was in none of ${itemWords(items)}`);
    else if (beside !== undefined && !items.some((item) => mayEqual(read(item), beside)))
      noteTypes(frame, path, items.map(read), beside);
  }
}

/** The value of a literal other than null, which says that something is not there. */
function constantOf(node: Node): Value | undefined {
  const inner = ungrouped(node);
  return inner.kind === 'literal' && inner.value !== null ? inner.value : undefined;
}

/** Whether a value could be equal to a constant: it is of its type, or says nothing. */
function mayEqual(value: Value | undefined, beside: Value): boolean {
  return value === undefined || value === null || typeOf(value) === typeOf(beside) || value instanceof NonJsonValue;
}

function noteTypes(frame: Frame, path: PathNode, values: readonly (Value | undefined)[], beside: Value): void {
  const one = values.find((value) => value !== undefined)!;
  const message = `${printExpression(path)} is ${aType(one)} in all of ${counted(values.length, 'item')}, and ${showValue(beside, 40)} is ${aType(beside)}`;
  const advice = 'Compare values of one type: number(x), string(x).';
  put(frame, { code: 'types-differ', range: path.range, message, advice });
}

function note(frame: Frame, range: PathNode['range'], message: string): void {
  const advice = 'If it may be missing, say so: x ?? ..., or exists(x).';
  put(frame, { code: 'never-found', range, message, advice });
}

/** A place is noted once in an evaluation, for however many items it is met again. */
function put(frame: Frame, problem: Problem): void {
  const notes = (frame.notes ??= []);
  if (!notes.some(({ code, range }) => code === problem.code && range === problem.range)) notes.push(problem);
}

/** `13 items; they have id and total`. */
function itemWords(items: readonly Value[]): string {
  const [first] = items;
  const what = isObject(first) ? `they have ${nameList(Object.keys(first))}` : `the first is ${aType(first!)}`;
  return `${counted(items.length, 'item')}; ${what}`;
}

function itemsOf(value: Value): readonly Value[] {
  return isList(value) ? value : isObject(value) ? Object.values(value) : [];
}
