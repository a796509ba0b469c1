import type { Problem, Range } from '../diagnostics/problem.ts';
import { adviceOf } from '../diagnostics/suggest.ts';
import { isSingular } from '../path/model.ts';
import { findFunction, suggestFunction } from './functions/list.ts';
import type { FunctionDefinition, Parameter } from './functions/definition.ts';
import { filtersOf, isComparison, partsOf, ungrouped, type CallNode, type Node, type PathNode } from './model.ts';

/** Where an expression stands: in a filter RFC 9535's typing holds (section 2.4.3), outside ours does. */
type Mode = 'plain' | 'filter';

/**
 * What is wrong with an expression that parses: unknown functions, wrong arguments, and in filters everything that
 * RFC 9535 calls not well-typed. Looks at the tree alone; what depends on names in scope is a check of the chain.
 */
export function findTypingProblems(tree: Node, text: string): readonly Problem[] {
  const problems: Problem[] = [];
  new Typing(text, (problem) => problems.push(problem)).visit(tree, 'plain');
  return problems;
}

class Typing {
  constructor(
    private readonly text: string,
    private readonly report: (problem: Problem) => void,
  ) {}

  visit(node: Node, mode: Mode): void {
    switch (node.kind) {
      case 'path':
        this.path(node, mode);
        break;
      case 'call':
        this.call(node, mode);
        break;
      case 'not':
        this.condition(node.operand, mode);
        break;
      case 'binary':
        this.binary(node, mode);
        break;
      default:
        for (const part of partsOf(node)) this.visit(part, mode);
    }
  }

  private path(node: PathNode, mode: Mode): void {
    if (node.start.kind === 'value') this.visit(node.start.node, mode);
    for (const condition of filtersOf(node)) this.condition(condition, 'filter');
  }

  private binary(node: Extract<Node, { kind: 'binary' }>, mode: Mode): void {
    const { operator, left, right } = node;
    if (operator === '||' || operator === '&&') {
      this.condition(left, mode);
      this.condition(right, mode);
      return;
    }
    this.value(left, mode);
    if (operator === 'in') this.list(right, mode);
    else this.value(right, mode);
    if (mode === 'filter' && isComparison(operator)) {
      this.comparable(left);
      this.comparable(right);
    }
  }

  /** A place for a condition: `&&`, `!`, a filter, an argument that is one. */
  private condition(node: Node, mode: Mode): void {
    this.visit(node, mode);
    const inner = ungrouped(node);
    if (isCondition(inner) || (mode === 'filter' ? isExistenceTest(inner) : mayBeBoolean(inner))) return;
    const source = this.source(inner.range);
    const advice =
      inner.kind === 'path' ? `Write exists(${source}) or ${source} == true.` : `Compare it: ${source} == ...`;
    this.add('not-a-condition', inner.range, `${source} by itself is not a condition`, advice);
  }

  /** A place for one value. */
  private value(node: Node, mode: Mode): void {
    this.visit(node, mode);
    const inner = ungrouped(node);
    if (mode === 'filter' && inner.kind === 'path' && !isSingular(inner.segments)) {
      this.add(
        'array-compared',
        inner.range,
        `${this.source(inner.range)} may find many values, and a filter compares single values`,
        'Use a path of names and indexes only, or a function such as count().',
      );
    }
  }

  private list(node: Node, mode: Mode): void {
    this.visit(node, mode);
    if (ungrouped(node).kind === 'literal') {
      const advice = 'Write an array: in [1, 2]. For a part of a string use contains(), for a member keys().';
      this.add('wrong-argument', node.range, `"in" needs an array on its right`, advice);
    }
  }

  /** What RFC 9535 does not let stand beside a comparison sign: conditions, and tests in parentheses. */
  private comparable(node: Node): void {
    const inner = ungrouped(node);
    if (isCondition(inner)) {
      this.add(
        'wrong-argument',
        node.range,
        'A condition cannot be compared inside a filter',
        'Use it by itself, or with ! before it.',
      );
    } else if (node.kind === 'group' && inner.kind === 'path') {
      this.add(
        'wrong-argument',
        node.range,
        'A path in parentheses is a test, which cannot be compared',
        `Write ${this.source(inner.range)}.`,
      );
    }
  }

  private call(node: CallNode, mode: Mode): void {
    const definition = findFunction(node.name);
    if (!definition) {
      this.unknown(node);
      for (const argument of node.args) this.visit(argument, mode);
      return;
    }
    const { parameters } = definition;
    const required = parameters.filter((parameter) => !parameter.optional).length;
    if (node.args.length < required || node.args.length > parameters.length) {
      const wanted = required === parameters.length ? `${required}` : `${required} to ${parameters.length}`;
      const form = `${node.name}(${parameters.map((parameter) => parameter.name).join(', ')})`;
      const noun = wanted === '1' ? 'argument' : 'arguments';
      this.add(
        'wrong-argument',
        node.range,
        `${node.name}() takes ${wanted} ${noun}, not ${node.args.length}`,
        `Its form is ${form}.`,
      );
    }
    node.args.forEach((argument, i) => {
      const parameter = parameters[i];
      if (parameter) this.argument(argument, definition, parameter, mode);
      else this.visit(argument, mode);
    });
  }

  private unknown({ name, nameRange: range }: CallNode): void {
    const meant = suggestFunction(name);
    const suggestion = meant === undefined ? {} : { advice: `Did you mean ${meant}()?`, fix: { range, text: meant } };
    this.report({ code: 'unknown-function', range, message: `Unknown function "${name}"`, ...suggestion });
  }

  private argument(node: Node, definition: FunctionDefinition, parameter: Parameter, mode: Mode): void {
    const inner = ungrouped(node);
    switch (parameter.sort) {
      case 'condition':
        this.condition(node, mode);
        return;
      case 'itemCondition':
        this.condition(node, 'plain');
        return;
      case 'item':
        this.visit(node, 'plain');
        return;
      case 'nodes':
        this.visit(node, mode);
        if (inner.kind !== 'path') this.wrong(inner, `${definition.name}() takes a path`);
        else if (definition.name === 'count' && mode === 'plain' && isSingular(inner.segments)) this.countOfOne(inner);
        return;
      case 'list':
      case 'maybe':
      case 'private':
      case 'lazy':
      case 'presence':
        this.visit(node, mode);
        break;
      case 'value':
        this.value(node, mode);
        break;
    }
    this.kindOf(inner, definition, parameter, mode);
  }

  /** Whether an argument is of the kind that its parameter takes. */
  private kindOf(inner: Node, definition: FunctionDefinition, parameter: Parameter, mode: Mode): void {
    // RFC 9535 makes a literal of the wrong kind give nothing in a filter, so there it is no error.
    if (mode === 'plain' && inner.kind === 'literal' && parameter.accepts && !parameter.accepts(inner.value)) {
      this.wrong(inner, `${definition.name}() takes ${parameter.what}`);
    } else if (mode === 'filter' && isCondition(inner) && parameter.sort === 'value') {
      this.wrong(inner, `${definition.name}() takes a value, not a condition`);
    }
    const pattern = inner.kind === 'literal' ? parameter.examine?.(inner.value) : undefined;
    if (pattern) this.add(pattern.code, inner.range, pattern.message, pattern.advice);
  }

  private wrong(node: Node, expected: string): void {
    this.add('wrong-argument', node.range, `${expected}, not ${this.source(node.range)}`, undefined);
  }

  private countOfOne(path: PathNode): void {
    const source = this.source(path.range);
    const message = `count(${source}) is always 0 or 1, since the path finds at most one node`;
    this.add('count-of-single', path.range, message, `Write length(${source}), or count(${source}[*]).`);
  }

  private source([start, end]: Range): string {
    return this.text.slice(start, end);
  }

  private add(code: Problem['code'], range: Range, message: string, advice: string | undefined): void {
    this.report({ code, range, message, ...adviceOf(advice) });
  }
}

/** A path by itself in a filter asks whether it is there (RFC 9535 section 2.3.5). */
function isExistenceTest(node: Node): boolean {
  return node.kind === 'path' && node.start.kind !== 'name' && node.start.kind !== 'value';
}

/** Outside filters a name may be known to be boolean, which only the chain's check can tell. */
function mayBeBoolean(node: Node): boolean {
  if (node.kind === 'path') return true;
  if (node.kind === 'call') return !findFunction(node.name)?.result;
  return node.kind === 'literal' && typeof node.value === 'boolean';
}

/** Whether a node is a condition by its form. */
export function isCondition(node: Node): boolean {
  switch (node.kind) {
    case 'not':
      return true;
    case 'group':
      return isCondition(node.inner);
    case 'binary':
      return node.operator === '||' || node.operator === '&&' || isComparison(node.operator);
    case 'call':
      return findFunction(node.name)?.result === 'condition';
    default:
      return false;
  }
}
