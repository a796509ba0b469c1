import { isSingular } from '../path/model.ts';
import { compilePath } from '../path/evaluate.ts';
import type { Test } from '../path/select.ts';
import type { Maybe, Value } from '../value/value.ts';
import { compileCall, type PlainCompilers } from './compile-call.ts';
import { generateFilter } from './generate-filter.ts';
import { compileStart } from './compile-start.ts';
import { EvaluationFault } from './fault.ts';
import type { Evaluate, Frame } from './frame.ts';
import { findFunction } from './functions/list.ts';
import { filtersOf, isComparison, partsOf, type CallNode, type Comparison, type Node, type PathNode } from './model.ts';
import { besideText } from './nodes.ts';
import { calculate, compare, negate, WrongOperands } from './operators.ts';

/** The paths from outer names that the filters of a path read, each written there once or more. */
type OuterPaths = readonly PathNode[];

/**
 * Paths from a name inside the filters of `path`. They do not depend on the item, so they are evaluated once; and one
 * that is nothing makes the whole path nothing, so that an unbound name never selects anything. Where nothing is
 * allowed (left of `??`, in `exists` and `type_of`) they are left to be evaluated in place.
 */
export function outerPathsOf(path: PathNode): OuterPaths {
  const found: PathNode[] = [];
  const visit = (node: Node): void => {
    if (node.kind === 'path' && node.start.kind === 'name' && isSingular(node.segments)) {
      found.push(node);
    } else if (node.kind === 'binary' && node.operator === '??') {
      visit(node.right);
    } else if (!(node.kind === 'call' && meetsNothing(node))) {
      partsOf(node).forEach(visit);
    }
  };
  filtersOf(path).forEach(visit);
  return found;
}

function meetsNothing(call: CallNode): boolean {
  return findFunction(call.name)?.parameters.some((parameter) => parameter.sort === 'presence') ?? false;
}

/** What is around a part of a filter: the paths read before its first item, and how arguments over `@` are compiled. */
type Filtering = Readonly<{ outer: OuterPaths; plain: PlainCompilers }>;

/** Compiles the condition of a filter: RFC 9535's rules, in which a wrong kind or nothing never ends the evaluation. */
export function compileFilter(condition: Node, filtering: Filtering): Test<Frame> {
  const test = compileTest(condition, filtering);
  const passes = (item: Value, frame: Frame): boolean => {
    const saved = frame.item;
    frame.item = item;
    const passed = test(frame);
    frame.item = saved;
    return passed;
  };
  return { passes, loop: generateFilter(condition, filtering.outer, passes) };
}

type Condition = (frame: Frame) => boolean;

function compileTest(node: Node, filtering: Filtering): Condition {
  switch (node.kind) {
    case 'group':
      return compileTest(node.inner, filtering);
    case 'not': {
      const operand = compileTest(node.operand, filtering);
      return (frame) => !operand(frame);
    }
    case 'binary': {
      const { operator } = node;
      if (operator === '&&' || operator === '||') {
        const left = compileTest(node.left, filtering);
        const right = compileTest(node.right, filtering);
        return operator === '&&' ? (frame) => left(frame) && right(frame) : (frame) => left(frame) || right(frame);
      }
      if (!isComparison(operator)) break;
      const left = compileValue(node.left, filtering);
      const right = compileValue(node.right, filtering);
      if (operator === '==') return compileEquality(left, right);
      return (frame) => compareItems(operator, left(frame), right(frame));
    }
    case 'path':
      return compileExistence(node, filtering);
    default:
  }
  const value = compileValue(node, filtering);
  return (frame) => value(frame) === true;
}

/** Equality is most of what filters do; two texts or numbers need no call. */
function compileEquality(left: Evaluate, right: Evaluate): Condition {
  return (frame) => {
    const a = left(frame);
    const b = right(frame);
    return a === b || ((typeof a !== 'string' || typeof b === 'object') && compareItems('==', a, b));
  };
}

/** Compares as RFC 9535 says; a node beside a text stands for its text, and several of them for nothing. */
function compareItems(operator: Comparison, left: Maybe, right: Maybe): boolean {
  if (typeof left !== 'object' && typeof right !== 'object') return compare(operator, left, right);
  return compare(operator, nodeBeside(left, right), nodeBeside(right, left));
}

function nodeBeside(value: Maybe, other: Maybe): Maybe {
  return withoutFault(() => besideText(value, other, [0, 0]));
}

function compileExistence(node: PathNode, filtering: Filtering): Condition {
  if (isSingular(node.segments)) {
    const value = compileValue(node, filtering);
    return (frame) => value(frame) !== undefined;
  }
  const many = compileMany(node, filtering);
  return (frame) => (many(frame) ?? []).length > 0;
}

/** A value, or nothing, of a part of a filter. */
function compileValue(node: Node, filtering: Filtering): Evaluate {
  switch (node.kind) {
    case 'literal':
      return () => node.value;
    case 'group':
      return compileValue(node.inner, filtering);
    case 'list': {
      const items = node.items.map((item) => compileValue(item, filtering));
      return (frame) => {
        const values = items.map((item) => item(frame));
        return values.includes(undefined) ? undefined : (values as Value[]);
      };
    }
    case 'path':
      return compileInnerPath(node, filtering);
    case 'call': {
      const call = compileCall(node, (argument) => compileValue(argument, filtering), filtering.plain);
      return (frame) => withoutFault(() => call(frame));
    }
    case 'not':
      return compileTest(node, filtering);
    case 'negative': {
      const operand = compileValue(node.operand, filtering);
      return (frame) => orNothing(operand(frame), negate);
    }
    case 'binary':
      return compileBinaryValue(node, filtering);
  }
}

function compileBinaryValue(node: Extract<Node, { kind: 'binary' }>, filtering: Filtering): Evaluate {
  const { operator } = node;
  if (operator === '&&' || operator === '||' || isComparison(operator)) return compileTest(node, filtering);
  const left = compileValue(node.left, filtering);
  const right = compileValue(node.right, filtering);
  if (operator === '??') return (frame) => left(frame) ?? right(frame);
  return (frame) => {
    const b = right(frame);
    return b === undefined ? undefined : orNothing(left(frame), (a) => calculate(operator, a, b));
  };
}

function orNothing(value: Maybe, compute: (value: Value) => Value | WrongOperands): Maybe {
  if (value === undefined) return undefined;
  const result = compute(value);
  return result instanceof WrongOperands ? undefined : result;
}

function withoutFault(evaluate: () => Maybe): Maybe {
  try {
    return evaluate();
  } catch (error) {
    if (error instanceof EvaluationFault) return undefined;
    throw error;
  }
}

/** A path inside a filter; one from an outer name was evaluated before the first item. */
function compileInnerPath(node: PathNode, filtering: Filtering): Evaluate {
  const slot = filtering.outer.indexOf(node);
  if (slot >= 0) return (frame) => frame.outer[slot];
  if (!isSingular(node.segments)) return compileMany(node, filtering);
  const root = compileStart(node, (inner) => compileValue(inner, filtering));
  if (node.segments.length === 0) return root;
  const path = compilePath<Node, Frame>(node.segments, () => ({ passes: () => false, loop: undefined }));
  if (node.start.kind === 'item') return (frame) => path.one(frame.item!, frame);
  return (frame) => {
    const from = root(frame);
    return from === undefined ? undefined : path.one(from, frame);
  };
}

function compileMany(node: PathNode, filtering: Filtering): (frame: Frame) => Value[] | undefined {
  const root = compileStart(node, (inner) => compileValue(inner, filtering));
  const path = compilePath<Node, Frame>(node.segments, (condition) => compileFilter(condition, filtering));
  return (frame) => {
    const from = root(frame);
    return from === undefined ? undefined : path.all(from, frame);
  };
}
