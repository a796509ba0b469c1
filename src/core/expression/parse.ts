import { SyntaxFault, type Problem, type Range } from '../diagnostics/problem.ts';
import { parseSegments } from '../path/parse-segments.ts';
import { continuesName, Scanner } from '../path/scanner.ts';
import { counted } from '../value/show.ts';
import { isComparison, type Node, type Operator, type PathNode } from './model.ts';
import { parsePostfix } from './parse-operand.ts';
import { findTypingProblems } from './typing.ts';

/** Levels to which an expression may nest, and its length. They stop texts made to exhaust the parser's stack. */
const MAX_EXPRESSION_DEPTH = 64;
const MAX_EXPRESSION_LENGTH = 10_000;

/** What parsing outputs: a tree, or problems, or both when the text parses and yet makes no sense. */
export type Parsed<T> = Readonly<{ tree: T | undefined; problems: readonly Problem[] }>;

/** `expression = S or S`. Never throws. */
export function parseExpression(text: string): Parsed<Node> {
  return parsed(text, (scanner) => {
    scanner.blank();
    const tree = parseOr(scanner);
    scanner.blank();
    if (!scanner.ended) scanner.expected('an operator or the end');
    return tree;
  });
}

/** `path = "$" { S segment }`: a JSONPath alone, with no blank before or after it. Never throws. */
export function parsePath(text: string): Parsed<PathNode> {
  return parsed(text, (scanner) => {
    if (!scanner.take('$')) scanner.expected('"$"');
    const segments = parseSegments(scanner, () => parseOr(scanner));
    if (!scanner.ended) scanner.expected('"." or "[" or the end');
    return { kind: 'path', range: [0, scanner.at], start: { kind: 'body' }, segments };
  });
}

/**
 * The expression of a placeholder: from `start` to the closing brace at its own level. `end` is the offset behind that brace.
 * Never throws.
 */
export function parsePlaceholder(text: string, start: number): Parsed<Node> & Readonly<{ end: number }> {
  let end = text.length;
  const result = parsed(
    text,
    (scanner) => {
      scanner.at = start;
      scanner.blank();
      const tree = parseOr(scanner);
      scanner.blank();
      if (!scanner.take('}')) scanner.expected('an operator or "}"');
      end = scanner.at;
      return tree;
    },
    'invalid-placeholder',
  );
  return { ...result, end };
}

function parsed<T extends Node>(
  text: string,
  parse: (scanner: Scanner) => T,
  code: Problem['code'] = 'does-not-parse',
): Parsed<T> {
  try {
    if (text.length > MAX_EXPRESSION_LENGTH) {
      const message = `An expression can have at most ${counted(MAX_EXPRESSION_LENGTH, 'character')}`;
      throw new SyntaxFault({ code: 'over-limit', range: [0, 1], message });
    }
    const tree = parse(new Scanner(text, MAX_EXPRESSION_DEPTH));
    return { tree, problems: findTypingProblems(tree, text) };
  } catch (error) {
    if (!(error instanceof SyntaxFault)) throw error;
    const { problem } = error;
    return { tree: undefined, problems: [problem.code === 'does-not-parse' ? { ...problem, code } : problem] };
  }
}

/** Binding powers, loosest first. A condition begins where `&&` may stand beside it. */
const POWERS: Readonly<Record<Operator, number>> = {
  '||': 1,
  '&&': 2,
  '==': 3,
  '!=': 3,
  '<=': 3,
  '>=': 3,
  '<': 3,
  '>': 3,
  in: 3,
  '+': 4,
  '-': 4,
  '*': 5,
  '/': 5,
  '%': 5,
  '??': 7,
};
const CONDITION = 3;

/** Operators by their first sign, longer ones before shorter. */
const OPERATORS = new Map<string, readonly Operator[]>();
for (const operator of Object.keys(POWERS).sort((a, b) => b.length - a.length) as Operator[]) {
  if (operator !== 'in') OPERATORS.set(operator[0]!, [...(OPERATORS.get(operator[0]!) ?? []), operator]);
}

/** or = and { S "||" S and } ; and so on down to unary: one loop over binding powers. */
function parseOr(scanner: Scanner): Node {
  return scanner.nested(() => parseBinary(scanner, 0));
}

function parseBinary(scanner: Scanner, above: number): Node {
  let left = parsePrefix(scanner, above);
  for (;;) {
    const before = scanner.at;
    refuseTouchingMinus(scanner, left);
    scanner.blank();
    const operator = peekOperator(scanner);
    if (operator === undefined || operator === '??' || POWERS[operator] <= above) {
      scanner.at = before;
      return left;
    }
    const operatorRange: Range = [scanner.at, scanner.at + operator.length];
    if (left.kind === 'not' && POWERS[operator] >= CONDITION) refuseBang(scanner, left, operator, operatorRange);
    if (isComparison(operator) && left.kind === 'binary' && isComparison(left.operator)) {
      const advice = 'Write two comparisons and join them with &&.';
      scanner.fail(operatorRange, 'Comparisons cannot be chained', advice, 'chained-comparison');
    }
    scanner.at += operator.length;
    scanner.blank();
    const right = parseBinary(scanner, POWERS[operator]);
    left = { kind: 'binary', range: [left.range[0], right.range[1]], operator, operatorRange, left, right };
  }
}

/** condition = "!" S postfix | comparison ; unary = "-" fallback | fallback */
function parsePrefix(scanner: Scanner, above: number): Node {
  const begin = scanner.at;
  if (scanner.peek() === '!') {
    if (above >= CONDITION) scanner.expected('a value');
    scanner.at++;
    scanner.blank();
    const operand = parsePostfix(scanner, parseOr);
    if (operand.kind === 'literal' || operand.kind === 'list') {
      scanner.fail(operand.range, 'Expected a parenthesis, a path, a name or a call after "!"');
    }
    return { kind: 'not', range: [begin, scanner.at], operand };
  }
  if (scanner.take('-')) {
    if (scanner.peek() === '-')
      scanner.fail([begin, scanner.at + 1], 'Two minus signs in a row', 'Use parentheses, or +.');
    if (/\s/.test(scanner.peek())) scanner.fail([begin, scanner.at], 'A minus must touch its operand');
    const operand = parseFallback(scanner);
    return { kind: 'negative', range: [begin, scanner.at], operand };
  }
  return parseFallback(scanner);
}

/** fallback = postfix [ S "??" S unary ], right-associative and tightest. */
function parseFallback(scanner: Scanner): Node {
  const left = parsePostfix(scanner, parseOr);
  if (!scanner.takeAfterBlank('??')) return left;
  const operatorRange: Range = [scanner.at - 2, scanner.at];
  scanner.blank();
  const right = scanner.nested(() => parsePrefix(scanner, CONDITION));
  return { kind: 'binary', range: [left.range[0], right.range[1]], operator: '??', operatorRange, left, right };
}

function peekOperator(scanner: Scanner): Operator | undefined {
  const sign = scanner.peek();
  if (sign === 'i' && scanner.starts('in') && !continuesName(scanner.peek(2))) return 'in';
  const operator = OPERATORS.get(sign)?.find((each) => scanner.starts(each));
  if (operator === undefined && (sign === '=' || sign === '&' || sign === '|')) {
    scanner.fail(
      [scanner.at, scanner.at + 1],
      `"${sign}" is not an operator`,
      `Write "${sign}${sign}".`,
      'does-not-parse',
      {
        range: [scanner.at, scanner.at + 1],
        text: sign + sign,
        sure: true,
      },
    );
  }
  return operator;
}

/** `$.next-cursor` would be a subtraction, which is never what was meant (`ambiguous-minus`). */
function refuseTouchingMinus(scanner: Scanner, left: Node): void {
  const { text, at } = scanner;
  if (scanner.peek() !== '-' || left.kind !== 'path' || !continuesName(text[at - 1] ?? '')) return;
  if (!continuesName(scanner.peek(1))) return;
  const rest = /^[A-Za-z0-9_\u0080-\uffff-]+/.exec(text.slice(at))![0];
  const last = left.segments.at(-1);
  const member =
    last &&
    `${text.slice(left.range[0], last.range[0])}['${text.slice(last.range[0], at).replace(/^\.+/, '')}${rest}']`;
  const difference = `${text.slice(left.range[0], at)} - ${rest.slice(1)}`;
  scanner.fail(
    [at, at + 1],
    'Ambiguous minus in a name',
    member
      ? `Write ${member} for the member, or ${difference} for the difference.`
      : `Write ${difference} for the difference; names have no hyphen.`,
    'ambiguous-minus',
    member ? { range: [left.range[0], at + rest.length], text: member } : undefined,
  );
}

const OPPOSITES: Readonly<Partial<Record<Operator, Operator>>> = {
  '==': '!=',
  '!=': '==',
  '<': '>=',
  '>=': '<',
  '>': '<=',
  '<=': '>',
};

function refuseBang(scanner: Scanner, left: Node, operator: Operator, operatorRange: Range): never {
  const operand = scanner.text.slice(left.range[0] + 1, left.range[1]).trim();
  const opposite = OPPOSITES[operator];
  const other = opposite ? ` or ${operand} ${opposite} ...` : '';
  const range: Range = [left.range[0], operatorRange[1]];
  const advice = `Write !(${operand} ${operator} ...)${other}.`;
  return scanner.fail(
    range,
    `"!" precedes a comparison here, and would negate only "${operand}"`,
    advice,
    'bang-before-comparison',
  );
}
