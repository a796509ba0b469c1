import { aType } from '../value/show.ts';
import { assertNever } from '../diagnostics/problem.ts';
import { compilePath, TooManyNodes, type CompiledPath } from '../path/evaluate.ts';
import { isSingular } from '../path/model.ts';
import { isList, isObject, type Value } from '../value/value.ts';
import { compileFilter, outerPathsOf } from './compile-filter.ts';
import { compileCall, type PlainCompilers } from './compile-call.ts';
import { compileStart } from './compile-start.ts';
import { fault } from './fault.ts';
import { compileUnmet } from './unmet.ts';
import type { Evaluate, Frame } from './frame.ts';
import { isComparison, ungrouped, type BinaryNode, type Node, type PathNode } from './model.ts';
import { besideText } from './nodes.ts';
import { calculate, compare, negate, WrongOperands } from './operators.ts';

/** What stands in a call, and is no filter itself, is compiled by these. */
const plain: PlainCompilers = { value: compile, condition: compileCondition };

/** Compiles an expression that stands outside of filters: nothing is carried through, a wrong kind is an error. */
export function compile(node: Node): Evaluate {
  switch (node.kind) {
    case 'literal':
      return () => node.value;
    case 'group':
      return compile(node.inner);
    case 'list':
      return compileList(node);
    case 'path':
      return compilePathNode(node);
    case 'call':
      return compileCall(node, compile, plain);
    case 'not': {
      const operand = compileCondition(node.operand);
      return (frame) => {
        const value = operand(frame);
        return value === undefined ? undefined : !value;
      };
    }
    case 'negative': {
      const operand = compile(node.operand);
      return (frame) => {
        const value = operand(frame);
        return value === undefined ? undefined : orFault(negate(value), node.range);
      };
    }
    case 'binary':
      return compileBinary(node);
    default:
      return assertNever(node);
  }
}

function orFault(result: Value | WrongOperands, range: Node['range']): Value {
  if (result instanceof WrongOperands) fault('wrong-argument', range, result.message, result.advice);
  return result;
}

function compileList(node: Extract<Node, { kind: 'list' }>): Evaluate {
  const items = node.items.map((item) => [compile(item), item.range] as const);
  return (frame) =>
    items.map(
      ([item, range]) =>
        item(frame) ?? fault('found-nothing', range, 'An item of this array found nothing', 'Write x ?? null.'),
    );
}

function compileBinary(node: BinaryNode): Evaluate {
  const { operator } = node;
  if (operator === '&&' || operator === '||') return compileLogical(node, operator === '||');
  const left = compile(node.left);
  const right = compile(node.right);
  if (operator === '??') {
    return (frame) => {
      const value = left(frame);
      return value === undefined || value === null ? right(frame) : value;
    };
  }
  if (operator === 'in') return compileMembership(node, left, right);
  if (isComparison(operator)) {
    return (frame) => {
      const a = left(frame);
      const b = right(frame);
      if (a === undefined || b === undefined) return undefined;
      const x = besideText(a, b, node.left.range);
      const y = besideText(b, a, node.right.range);
      return x === undefined || y === undefined ? undefined : compare(operator, x, y);
    };
  }
  return (frame) => {
    const a = left(frame);
    const b = right(frame);
    return a === undefined || b === undefined ? undefined : orFault(calculate(operator, a, b), node.range);
  };
}

function compileMembership(node: BinaryNode, left: Evaluate, right: Evaluate): Evaluate {
  return (frame) => {
    const a = left(frame);
    const b = right(frame);
    if (a === undefined || b === undefined) return undefined;
    if (!isList(b)) {
      const advice = 'For a part of a string write contains(string, part), for a member name x in keys(object).';
      fault('wrong-argument', node.right.range, `"in" needs an array on its right, not ${aType(b)}`, advice);
    }
    return compare('in', a, b);
  };
}

/**
 * `&&` and `||` in three-valued logic: the deciding side decides in either order, whatever the other one is; with
 * nothing on a side and no such decision the outcome is nothing.
 */
function compileLogical(node: BinaryNode, deciding: boolean): Evaluate {
  const left = compileCondition(node.left);
  const right = compileCondition(node.right);
  return (frame) => {
    const a = left(frame);
    if (a === deciding) return deciding;
    const b = right(frame);
    if (b === deciding) return deciding;
    return a === undefined || b === undefined ? undefined : !deciding;
  };
}

/** A place for a condition: the value must be true, false or nothing. */
export function compileCondition(node: Node): (frame: Frame) => boolean | undefined {
  const evaluate = compile(node);
  return (frame) => {
    const value = evaluate(frame);
    if (value === undefined || typeof value === 'boolean') return value;
    const inner = ungrouped(node);
    const advice = inner.kind === 'path' ? 'Write exists(x), or compare it: x == ...' : undefined;
    return fault('not-a-condition', node.range, `A condition must be true or false, not ${aType(value)}`, advice);
  };
}

/** The root and the segments of a path as functions, for evaluating and for telling how far it got. */
export function compileParts(node: PathNode): Readonly<{
  root: Evaluate;
  path: CompiledPath<Frame>;
  /** Evaluates inside with the outer names of the filters at hand; nothing when one of them is nothing. */
  within<T>(frame: Frame, inside: () => T): T | undefined;
}> {
  const outerPaths = outerPathsOf(node);
  const outer = outerPaths.map((path) => compilePathNode(path));
  const path = compilePath<Node, Frame>(node.segments, (condition) =>
    compileFilter(condition, { outer: outerPaths, plain }),
  );
  return {
    root: compileStart(node, compile),
    path,
    within: (frame, inside) => {
      if (outer.length === 0) return inside();
      const values: Value[] = [];
      for (const evaluate of outer) {
        const value = evaluate(frame);
        if (value === undefined) return undefined;
        values.push(value);
      }
      const saved = frame.outer;
      frame.outer = values;
      const result = inside();
      frame.outer = saved;
      return result;
    },
  };
}

function compilePathNode(node: PathNode): Evaluate {
  if (!isSingular(node.segments)) return compileMany(node);
  const { root, path } = compileParts(node);
  if (node.segments.length === 0) return root;
  return (frame) => {
    const from = root(frame);
    return from === undefined ? undefined : path.one(from, frame);
  };
}

/**
 * A path that gives a list: nothing where that list could not be looked for, since what stands before its first
 * wildcard, filter or slice is not there or can have no items. A filter that lets nothing through, and an array that is
 * empty, give an empty list.
 */
function compileMany(node: PathNode): Evaluate {
  const split = node.segments.findIndex((segment) => !isSingular([segment]));
  const start = compilePathNode({ ...node, segments: node.segments.slice(0, split) });
  const rest = { ...node, segments: node.segments.slice(split) };
  const { path, within } = compileParts(rest);
  const [first] = rest.segments;
  const unmet = compileUnmet(rest);
  return (frame) => {
    const from = start(frame);
    if (from === undefined || !mayHave(first!, from)) return undefined;
    try {
      const found = within(frame, () => path.all(from, frame));
      return found && unmet(from, found, frame) ? undefined : found;
    } catch (error) {
      if (!(error instanceof TooManyNodes)) throw error;
      return fault('over-limit', node.range, 'This path finds more than 5,000,000 nodes', 'Use a narrower path.');
    }
  };
}

/** Whether a value can have what a segment that finds many looks for. */
function mayHave({ descends, selectors }: PathNode['segments'][number], value: Value): boolean {
  if (descends || isList(value)) return true;
  return isObject(value) && selectors.some(({ kind }) => kind !== 'slice');
}
