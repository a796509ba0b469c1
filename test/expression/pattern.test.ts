import { growthOf } from '../support/steps.ts';
import { compilePattern } from '../../src/core/expression/pattern/pattern.ts';

describe('I-Regexp, RFC 9485', () => {
  test.each<[pattern: string, whole: readonly string[], not: readonly string[]]>([
    ['KM [0-9]+/[0-9]', ['KM 204/5'], ['KM 204/', 'xKM 204/5', 'KM 204/55']],
    ['[^a-c]*', ['', 'xyz'], ['xaz']],
    ['(ab|c)+', ['ab', 'abcab'], ['', 'aab']],
    ['a{2,3}', ['aa', 'aaa'], ['a', 'aaaa']],
    ['a{2}b{0,1}', ['aa', 'aab'], ['aabb']],
    ['.', ['å', '😀'], ['\n', '\r', 'ab']],
    ['\\p{Lu}\\p{Ll}*', ['Åse', 'B'], ['åse']],
    ['[\\p{N}\\-.]+', ['1-2.3'], ['a']],
    ['[-a]+', ['-a'], ['b']],
    ['\\(\\)\\.\\n', ['().\n'], ['()x\n']],
    ['', [''], ['a']],
  ])('%s', (source, whole, not) => {
    const { pattern } = compilePattern(source);
    expect(whole.filter((text) => !pattern!.matches(text))).toEqual([]);
    expect(not.filter((text) => pattern!.matches(text))).toEqual([]);
  });

  test.each(['(', 'a)', '[a', 'a{3,2}', '*a', '[]', '\\d', '\\w+', '[b-a]', 'a{x}', '\\p{Xx}'])(
    '%s is refused',
    (source) => {
      expect(compilePattern(source).problem?.code).toBe('invalid-pattern');
    },
  );

  test('a pattern found anywhere', () => {
    const { pattern } = compilePattern('N[0-9]');
    expect(pattern!.occursIn('berth N2, north')).toBe(true);
    expect(pattern!.occursIn('berth N')).toBe(false);
  });

  test.each(['(a+)+b', '(a|a)*b', '(a*)*b', 'a*a*a*a*a*a*b', '(a|aa)+b', '(.*)(.*)(.*)(.*)b'])(
    '%s takes effort in line with its text',
    (source) => {
      const { pattern } = compilePattern(source);
      const growth = growthOf((size) => {
        expect(pattern!.matches('a'.repeat(size))).toBe(false);
        expect(pattern!.occursIn(`${'a'.repeat(size)}c`)).toBe(false);
      }, 500);
      expect(growth).toBeLessThan(2.5);
    },
  );

  test('a pattern that unfolds into too many states is refused', () => {
    expect(compilePattern('((a{100}){100}){100}').problem?.code).toBe('over-limit');
    expect(compilePattern('a'.repeat(2000)).problem?.code).toBe('over-limit');
  });
});

describe('patterns of JSON Schemas (ECMA-262)', () => {
  const fits = (pattern: string, text: string) => compilePattern(pattern, 'ecma').pattern?.occursIn(text);

  test.each([
    '^\\d{4}-\\d{2}$',
    '^\\w+@\\w+\\.example$',
    '\\s',
    '^[\\w.-]+$',
    '^[^\\s\\d]+$',
    '^(?:N|S)\\d$',
    '^(?<quay>[NS])\\d*?$',
    '^\\x41\\u0042$',
    '^[a-z-]+$',
    '^[[]x]$',
    'a{,3}',
    '^\\/v1\\/',
    '^.$',
  ])('%s fits what the platform says fits', (pattern) => {
    const own = new RegExp(pattern, 'u'.replace('u', pattern === 'a{,3}' || pattern === '^[[]x]$' ? '' : 'u'));
    for (const text of [
      '2026-05',
      'mole@harbour.example',
      'a b',
      'N1',
      'S',
      'AB',
      'a-b',
      '[x]',
      'a{,3}',
      '/v1/x',
      'ø',
      '\u2028',
      '',
    ])
      expect([text, fits(pattern, text)]).toEqual([text, own.test(text)]);
  });

  test.each(['(?=a)', '(?!a)', '(?<=a)b', '(a)\\1', '\\bword\\b'])(
    '%s needs backtracking, and is not tested',
    (pattern) => {
      expect(compilePattern(pattern, 'ecma').problem).toMatchObject({ code: 'invalid-pattern' });
    },
  );

  test('one that explodes when it backtracks takes steps by the length of the text', () => {
    expect(fits('^(a+)+$', `${'a'.repeat(50_000)}!`)).toBe(false);
  });
});
