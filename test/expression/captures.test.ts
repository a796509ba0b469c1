import { growthOf } from '../support/steps.ts';
import fc from 'fast-check';
import { compilePattern } from '../../src/core/expression/pattern/pattern.ts';
import { evaluated } from '../support/expressions.ts';

const groups = (pattern: string, text: string) =>
  compilePattern(pattern)
    .pattern!.find(text)
    ?.map((group) => group && text.slice(...group));

describe('groups of the first match', () => {
  test.each([
    ['a(b)c', 'xabcx', ['abc', 'b']],
    ['(a)|(b)', 'b', ['b', undefined, 'b']],
    ['(a*)(a*)', 'aaa', ['aaa', 'aaa', '']],
    ['(a|ab)(c|bcd)', 'abcd', ['abcd', 'a', 'bcd']],
    ['((a)(b)?)+', 'aba', ['aba', 'a', 'a', 'b']],
    ['([0-9]+)-([0-9]+)', 'no 12-34 and 5-6', ['12-34', '12', '34']],
    ['^(x)', 'ax', undefined],
    ['(x)$', 'axx', ['x', 'x']],
    ['(.{2})', '😀ab', ['😀a', '😀a']],
    ['()', 'a', ['', '']],
    ['a{2,3}', 'aaaa', ['aaa']],
  ])('%s in %s', (pattern, text, expected) => expect(groups(pattern, text)).toEqual(expected));
});

test('agrees with the engine on patterns without a repeated group', () => {
  const piece = fc.constantFrom(
    'a',
    'b',
    '[ab]',
    '.',
    'a*',
    'b+',
    'a?',
    'b{1,2}',
    '(a)',
    '(ab)',
    '(a|b)',
    '(a*b)',
    '(b+)?',
  );
  fc.assert(
    fc.property(fc.array(piece, { minLength: 1, maxLength: 6 }), fc.stringMatching(/^[abc]{0,12}$/), (pieces, text) => {
      const pattern = pieces.join('');
      const found = new RegExp(pattern, 'u').exec(text);
      expect(groups(pattern, text)).toEqual(found ? [...found] : undefined);
    }),
    { numRuns: 500 },
  );
});

test('stays linear where others go back', () => {
  const growth = growthOf((size) => {
    expect(groups('(a*)*b', 'a'.repeat(size))).toBeUndefined();
    expect(groups('(x+x+)+y', 'x'.repeat(size))).toBeUndefined();
  }, 500);
  expect(growth).toBeLessThan(2.5);
});

test.each([
  ["captured('KM 204/5', '([A-Z]+) ([0-9]+)')", 'KM'],
  ["captured('KM 204/5', '([A-Z]+) ([0-9]+)', 2)", '204'],
  ["captured('KM 204/5', '[0-9]+')", '204'],
  ["captured('KM 204/5', '(x)') ?? 'none'", 'none'],
])('%s', (text, value) => expect(evaluated(text)).toEqual({ value }));

test('a group that the pattern does not have is an error', () => {
  expect(evaluated("captured('a', '(a)', 2)").problem).toMatchObject({ code: 'wrong-argument', range: [21, 22] });
});
