import { MILLISECONDS } from '../value/json-write.ts';
import { parseSegments } from '../path/parse-segments.ts';
import { parseString } from '../path/parse-string.ts';
import { beginsName, continuesName, type Scanner } from '../path/scanner.ts';
import { readNumber } from '../value/numbers.ts';
import { Duration, ExactNumber, type Value } from '../value/value.ts';
import type { Node, Start } from './model.ts';

const NUMBER = /(?:0|[1-9][0-9]*)(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?/y;
const MEASURE = /((?:0|[1-9][0-9]*)(?:\.[0-9]+)?)(ms|s|m|h|d|B|kB|MB|GB|KiB|MiB|GiB)(?![A-Za-z0-9_\u0080-\uffff])/y;
const DATE_OR_TIME = /\d{4}-\d\d-\d\d(?:T[0-9:.]+Z?)?|\d{1,2}:\d\d(?::\d\d)?/y;

const BYTES: Readonly<Record<string, number>> = {
  B: 1,
  kB: 1e3,
  MB: 1e6,
  GB: 1e9,
  KiB: 1024,
  MiB: 1024 ** 2,
  GiB: 1024 ** 3,
};
const WORDS: ReadonlyMap<string, Value> = new Map<string, Value>([
  ['true', true],
  ['false', false],
  ['null', null],
]);

/** Parses an `or` of the grammar; the operators around operands provide it. */
type ParseOr = (scanner: Scanner) => Node;

/**
 * postfix = start { S segment } | literal | list ;
 * start   = "$" | "@" | NAME | call | "(" S or S ")" ;
 */
// eslint-disable-next-line complexity -- a branch for each beginning that the grammar has
export function parsePostfix(scanner: Scanner, parseOr: ParseOr): Node {
  const begin = scanner.at;
  const sign = scanner.peek();
  if (sign === "'" || sign === '"') {
    const value = parseString(scanner);
    return { kind: 'literal', range: [begin, scanner.at], value };
  }
  if (sign >= '0' && sign <= '9') return parseNumber(scanner);
  if (sign === '[') return parseList(scanner, parseOr);
  const word = beginsName(sign) ? scanner.name()! : undefined;
  if (word !== undefined && WORDS.has(word) && scanner.peek() !== '(') {
    return { kind: 'literal', range: [begin, scanner.at], value: WORDS.get(word)! };
  }
  if (word !== undefined && word !== word.toLowerCase() && WORDS.has(word.toLowerCase())) {
    scanner.fail([begin, scanner.at], `"${word}" is written in lower case`, `Write ${word.toLowerCase()}.`);
  }
  const start = parseStart(scanner, parseOr, begin, word);
  const segments = parseSegments(scanner, () => parseOr(scanner));
  if (start.kind === 'value' && segments.length === 0) return start.node;
  return { kind: 'path', range: [begin, scanner.at], start, segments };
}

function parseStart(scanner: Scanner, parseOr: ParseOr, begin: number, word: string | undefined): Start {
  if (word !== undefined) {
    if (scanner.peek() === '(') return { kind: 'value', node: parseCall(scanner, parseOr, begin, word) };
    if (word === 'in') scanner.fail([begin, scanner.at], 'Expected a value before "in"');
    return { kind: 'name', name: word, range: [begin, scanner.at] };
  }
  if (scanner.take('$')) return { kind: 'body' };
  if (scanner.take('@')) return { kind: 'item' };
  if (scanner.peek() === '(') return { kind: 'value', node: parseGroup(scanner, parseOr) };
  if (scanner.peek() === '=') scanner.fail([begin, begin + 1], 'Equality is written ==', 'Write "==".');
  if (scanner.starts('{')) {
    scanner.fail(
      [begin, begin + 1],
      'An expression has no braces',
      'Remove them: names are written without braces here.',
    );
  }
  return scanner.expected('a value');
}

/** call = FUNCTION "(" [ S or { S "," S or } ] S ")" */
function parseCall(scanner: Scanner, parseOr: ParseOr, begin: number, name: string): Node {
  const nameRange = [begin, scanner.at] as const;
  const args = parseItems(scanner, parseOr, ')', 'This parenthesis is not closed');
  return { kind: 'call', range: [begin, scanner.at], name, nameRange, args };
}

/** list = "[" S [ or { S "," S or } ] S "]" */
function parseList(scanner: Scanner, parseOr: ParseOr): Node {
  const begin = scanner.at;
  const items = parseItems(scanner, parseOr, ']', 'This bracket is not closed');
  return { kind: 'list', range: [begin, scanner.at], items };
}

function parseItems(scanner: Scanner, parseOr: ParseOr, close: string, unclosed: string): readonly Node[] {
  return scanner.nested(() => {
    const open = scanner.at++;
    const items: Node[] = [];
    scanner.blank();
    if (scanner.take(close)) return items;
    do {
      scanner.blank();
      if (scanner.ended) break;
      items.push(parseOr(scanner));
      scanner.blank();
    } while (scanner.take(','));
    closeOrFail(scanner, open, close, unclosed);
    return items;
  });
}

function parseGroup(scanner: Scanner, parseOr: ParseOr): Node {
  return scanner.nested(() => {
    const begin = scanner.at++;
    scanner.blank();
    const inner = parseOr(scanner);
    scanner.blank();
    closeOrFail(scanner, begin, ')', 'This parenthesis is not closed');
    return { kind: 'group', range: [begin, scanner.at], inner };
  });
}

function closeOrFail(scanner: Scanner, open: number, close: string, unclosed: string): void {
  if (scanner.ended) scanner.fail([open, open + 1], unclosed, `Add ${close} at its end.`);
  if (!scanner.take(close))
    scanner.expected(close === ')' ? 'an operator, "," or ")"' : `an operator, "," or "${close}"`);
}

/** NUMBER or MEASURE. A size is its number of bytes, a duration a value of its own. */
// eslint-disable-next-line complexity -- a branch for each form of a number
function parseNumber(scanner: Scanner): Node {
  const begin = scanner.at;
  const date = scanner.match(DATE_OR_TIME);
  if (date !== undefined) {
    scanner.fail(
      [begin, scanner.at],
      `${date} is not a number`,
      `Write date_time('${date}') for the point in time, or '${date}' for the string.`,
      'date-unquoted',
    );
  }
  MEASURE.lastIndex = begin;
  const measure = MEASURE.exec(scanner.text);
  if (measure && begin + measure[0].length <= scanner.end) {
    scanner.at += measure[0].length;
    return { kind: 'literal', range: [begin, scanner.at], value: measured(Number(measure[1]), measure[2]!) };
  }
  const text = scanner.match(NUMBER)!;
  const next = scanner.peek();
  if (continuesName(next) || (next === '.' && !beginsName(scanner.peek(1)))) {
    const zero = text === '0' && next >= '0' && next <= '9';
    scanner.fail(
      [scanner.at, scanner.at + 1],
      zero ? 'A number has no leading zero' : `"${next}" cannot follow a number`,
      continuesName(next) && !zero
        ? 'The units are ms s m h d for durations and B kB MB GB KiB MiB GiB for sizes; strings need quotes.'
        : undefined,
    );
  }
  const value = readNumber(text);
  if (value === undefined) scanner.fail([begin, scanner.at], `The number ${text} is out of range`);
  return { kind: 'literal', range: [begin, scanner.at], value: value instanceof ExactNumber ? value.number : value };
}

function measured(amount: number, unit: string): Value {
  const milliseconds = MILLISECONDS[unit];
  if (milliseconds === undefined) return Math.round(amount * BYTES[unit]!);
  return new Duration(Math.round(amount * milliseconds * 1000) / 1000);
}
