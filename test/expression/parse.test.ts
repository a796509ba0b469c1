import { parseExpression, parsePath } from '../../src/core/expression/parse.ts';
import { printExpression } from '../../src/core/expression/print.ts';
import { part } from '../support/expressions.ts';

/** Shows a tree with every operation in brackets, so that binding is seen. */
const shape = (text: string): string => {
  const { tree, problems } = parseExpression(text);
  expect(problems).toEqual([]);
  const show = (node: NonNullable<typeof tree>): string => {
    switch (node.kind) {
      case 'binary':
        return `[${show(node.left)} ${node.operator} ${show(node.right)}]`;
      case 'not':
        return `[! ${show(node.operand)}]`;
      case 'negative':
        return `[- ${show(node.operand)}]`;
      case 'group':
        return `(${show(node.inner)})`;
      default:
        return printExpression(node);
    }
  };
  return show(tree!);
};

describe('what binds how', () => {
  test.each([
    ['comparison is looser than arithmetic', '$.a + 1 == 2 * 3', '[[$.a + 1] == [2 * 3]]'],
    ['and is tighter than or', '$.a == 1 || $.b == 2 && $.c == 3', '[[$.a == 1] || [[$.b == 2] && [$.c == 3]]]'],
    ['?? belongs to the path before it', '$.n ?? 0 >= 1', '[[$.n ?? 0] >= 1]'],
    ['?? tries from the left', '$.a ?? $.b ?? 0', '[$.a ?? [$.b ?? 0]]'],
    ['minus takes the fallback with it', '-$.a ?? 0', '[- [$.a ?? 0]]'],
    ['differences go from the left', '9 - 4 - 3', '[[9 - 4] - 3]'],
    ['a minus behind a parenthesis subtracts', 'length($)-1', '[length($) - 1]'],
    ['in stands like a comparison', "$.state in ['a', 'b'] && $.n > 1", "[[$.state in ['a', 'b']] && [$.n > 1]]"],
    ['a list after in, a segment after a name', 'x in [1] || y[0] == 2', '[[x in [1]] || [y[0] == 2]]'],
    ['a star multiplies or selects by its place', '$.a * $.*[0]', '[$.a * $.*[0]]'],
    ['! takes one operand', '!exists($.a) && !(1 == 2)', '[[! exists($.a)] && [! ([1 == 2])]]'],
    ['a name may be called as a function is', 'count + 1', '[count + 1]'],
    ['members may be called in', "$.in == @['in']", '[$.in == @.in]'],
    ['segments follow a call and a parenthesis', 'value($..a).id == (x ?? y).id', '[value($..a).id == (x ?? y).id]'],
  ])('%s', (_name, text, expected) => expect(shape(text)).toBe(expected));
});

describe('literals', () => {
  test.each([
    ['1.5s', '1.5s'],
    ['250ms', '250ms'],
    ['90m', '90m'],
    ['2d', '2d'],
    ['64KiB', '65536'],
    ['1.5MB', '1500000'],
    ['12345678901234567890', '12345678901234567890'],
    ['1e3', '1000'],
    ["'it\\'s'", "'it\\'s'"],
    ['"\\u00e5"', "'å'"],
    ['"\\ud83d\\ude00"', "'😀'"],
  ])('%s is read as %s', (text, expected) => expect(shape(text)).toBe(expected));
});

describe('what does not parse says where and what to do', () => {
  const rows: readonly (readonly [text: string, code: string, underlined: string, advice: string])[] = [
    ['$.a ==', 'does-not-parse', '', ''],
    ['$.a = 1', 'does-not-parse', '=', 'Write "=="'],
    ['$.a & $.b', 'does-not-parse', '&', 'Write "&&"'],
    ['$.next-cursor', 'ambiguous-minus', '-', "$['next-cursor']"],
    ['due-1', 'ambiguous-minus', '-', 'due - 1'],
    ['a == b == c', 'chained-comparison', '==', 'Write two comparisons'],
    ['!$.a == 1', 'bang-before-comparison', '!$.a ==', '$.a != ...'],
    ['--1', 'does-not-parse', '--', 'parentheses'],
    ['- 1', 'does-not-parse', '-', ''],
    ['5x', 'does-not-parse', 'x', 'units'],
    ['01', 'does-not-parse', '1', ''],
    ['1.', 'does-not-parse', '.', ''],
    ['due == 2026-05-23', 'date-unquoted', '2026-05-23', "date_time('2026-05-23')"],
    ['12:30', 'date-unquoted', '12:30', ''],
    ['{a}', 'does-not-parse', '{', 'Remove them'],
    ["'abc", 'does-not-parse', "'abc", "Add ' at its end"],
    ["'\\q'", 'does-not-parse', '\\q', 'The escapes are'],
    ["'\\ud83d'", 'does-not-parse', '\\ud83d', 'both halves'],
    ['$.a[b]', 'does-not-parse', 'b', "['b']"],
    ['$.a[0', 'does-not-parse', '[', 'Add ]'],
    ['length($', 'does-not-parse', '(', 'Add )'],
    ['$.a.', 'does-not-parse', '.', 'brackets'],
    ['True', 'does-not-parse', 'True', 'Write true'],
    ['size($.a)', 'unknown-function', 'size', 'length()'],
    ['lenght($.a)', 'unknown-function', 'lenght', 'length()'],
    ['lower(1)', 'wrong-argument', '1', ''],
    ['lower()', 'wrong-argument', 'lower()', 'lower(string)'],
    ['count($.a)', 'count-of-single', '$.a', 'length($.a)'],
    ["match($.a, '(')", 'invalid-pattern', "'('", 'Add )'],
    ["match($.a, '\\\\d+')", 'invalid-pattern', "'\\\\d+'", '[0-9]'],
    ["$.a in 'abc'", 'wrong-argument', "'abc'", 'contains()'],
    ['1 && $.a', 'not-a-condition', '1', ''],
    ['$[?@.* == 1]', 'array-compared', '@.*', ''],
    ['$[?vessel]', 'not-a-condition', 'vessel', 'exists(vessel)'],
    ['$[?length(@.a)]', 'not-a-condition', 'length(@.a)', ''],
    ['$[?exists(@.a) == true]', 'wrong-argument', 'exists(@.a)', ''],
  ];
  test.each(rows)('%s', (text, code, underlined, advice) => {
    const { problems } = parseExpression(text);
    expect(problems[0]).toMatchObject({ code });
    expect(part(text, problems[0]!.range)).toBe(underlined);
    expect(problems[0]!.advice ?? '').toContain(advice);
  });

  test('a text too long or too deep is refused, whatever is in it', () => {
    expect(parseExpression('1 + '.repeat(4000)).problems[0]?.code).toBe('over-limit');
    expect(parseExpression('('.repeat(100)).problems[0]?.code).toBe('over-limit');
    expect(parseExpression('['.repeat(100)).problems[0]?.code).toBe('over-limit');
    expect(parsePath(`$${'[?@'.repeat(100)}`).problems[0]?.code).toBe('over-limit');
  });
});
