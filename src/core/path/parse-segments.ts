import type { Segment, Selector } from './model.ts';
import { parseString } from './parse-string.ts';
import { beginsName, type Scanner } from './scanner.ts';

/** Parses what stands behind `?` in a filter; the grammar around paths provides it. */
type ParseFilter<F> = () => F;

/**
 * The segments that follow a start, RFC 9535 section 2.5.
 *
 *   segments = *(S segment)
 *   segment  = "." ( "*" / NAME ) / ".." ( "*" / NAME / bracketed ) / bracketed
 */
export function parseSegments<F>(scanner: Scanner, parseFilter: ParseFilter<F>): readonly Segment<F>[] {
  const segments: Segment<F>[] = [];
  for (;;) {
    const before = scanner.at;
    scanner.blank();
    if (scanner.peek() !== '.' && scanner.peek() !== '[') {
      scanner.at = before;
      return segments;
    }
    segments.push(parseSegment(scanner, parseFilter));
  }
}

function parseSegment<F>(scanner: Scanner, parseFilter: ParseFilter<F>): Segment<F> {
  const start = scanner.at;
  const descends = scanner.take('..');
  const selectors = scanner.peek() === '[' ? parseBracketed(scanner, parseFilter) : [parseDotted<F>(scanner, descends)];
  return { range: [start, scanner.at], descends, selectors };
}

function parseDotted<F>(scanner: Scanner, descends: boolean): Selector<F> {
  if (!descends) scanner.at++;
  const start = scanner.at;
  if (scanner.take('*')) return { kind: 'wildcard', range: [start, scanner.at] };
  const name = beginsName(scanner.peek()) ? scanner.name() : undefined;
  if (name !== undefined) return { kind: 'name', range: [start, scanner.at], name };
  return scanner.fail(
    [start - 1, Math.min(start + 1, scanner.end)],
    `Expected a name or "*" after "${descends ? '..' : '.'}", found ${scanner.found()}`,
    "A name with other characters than letters, digits and _ is written in brackets: ['content-type'].",
  );
}

/** bracketed = "[" S selector *( S "," S selector ) S "]" */
function parseBracketed<F>(scanner: Scanner, parseFilter: ParseFilter<F>): readonly Selector<F>[] {
  return scanner.nested(() => {
    const open = scanner.at++;
    const selectors: Selector<F>[] = [];
    do {
      scanner.blank();
      selectors.push(parseSelector(scanner, parseFilter));
      scanner.blank();
    } while (scanner.take(','));
    if (scanner.ended) scanner.fail([open, open + 1], 'This bracket is not closed', 'Add ] at its end.');
    if (!scanner.take(']')) scanner.expected('"," or "]"');
    return selectors;
  });
}

/** selector = STRING / "*" / slice / INT / filter */
function parseSelector<F>(scanner: Scanner, parseFilter: ParseFilter<F>): Selector<F> {
  const start = scanner.at;
  const sign = scanner.peek();
  if (sign === '"' || sign === "'") {
    const name = parseString(scanner);
    return { kind: 'name', range: [start, scanner.at], name };
  }
  if (scanner.take('*')) return { kind: 'wildcard', range: [start, scanner.at] };
  if (scanner.take('?')) {
    scanner.blank();
    const condition = parseFilter();
    return { kind: 'filter', range: [start, scanner.at], condition };
  }
  const selector = parseNumeric<F>(scanner, start);
  if (selector) return selector;
  const word = beginsName(sign) ? scanner.name() : undefined;
  if (word !== undefined) {
    scanner.fail([start, scanner.at], `A member name in brackets is quoted`, `Write ['${word}'].`);
  }
  return scanner.expected('a quoted name, an index, a slice, * or a filter');
}

/** slice = [ INT S ] ":" S [ INT S ] [ ":" [ S INT ] ]; an index is a slice without its colon. */
function parseNumeric<F>(scanner: Scanner, start: number): Selector<F> | undefined {
  const first = scanner.integer();
  if (!scanner.takeAfterBlank(':')) {
    return first === undefined ? undefined : { kind: 'index', range: [start, scanner.at], index: first };
  }
  scanner.blank();
  const end = scanner.integer();
  let step: number | undefined;
  if (scanner.takeAfterBlank(':')) {
    const before = scanner.at;
    scanner.blank();
    step = scanner.integer();
    if (step === undefined) scanner.at = before;
  }
  return {
    kind: 'slice',
    range: [start, scanner.at],
    ...(first === undefined ? {} : { start: first }),
    ...(end === undefined ? {} : { end }),
    step: step ?? 1,
  };
}
