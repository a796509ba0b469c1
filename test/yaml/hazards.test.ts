import fc from 'fast-check';
import { correctedLine, fixed } from '../../src/core/diagnostics/fix.ts';
import { lineOf } from '../../src/core/diagnostics/source.ts';
import { readYaml } from '../../src/core/yaml/read.ts';
import { yamlQuoted, yamlScalar } from '../../src/core/yaml/quoting.ts';
import { chainProblems } from '../support/chains.ts';

/** Written lines under `expect:`, `keep:` or in a step, and what stands there instead. */
const rows: readonly (readonly [written: string, corrected: string])[] = [
  ['      - !exists($.x)', '      - "!exists($.x)"'],
  ['      - @.x == 1', '      - "@.x == 1"'],
  ['      - *x', '      - "*x"'],
  ['      - &x', '      - "&x"'],
  ['      - %x', '      - "%x"'],
  ['      - `x', '      - "`x"'],
  ["      - 'x' in $.tags", '      - "\'x\' in $.tags"'],
  ['      - "x" in $.tags', '      - \'"x" in $.tags\''],
  ['      - [1] == $.a', '      - "[1] == $.a"'],
  ["      - $.a == 'x: y'", '      - "$.a == \'x: y\'"'],
  ["      - status == 200 && $.a == 'x: y'", '      - "status == 200 && $.a == \'x: y\'"'],
  ["      - $.a == 'x #1'", '      - "$.a == \'x #1\'"'],
  ['    keep: { a: $.b[0], c: $.d }', '    keep: { a: "$.b[0]", c: $.d }'],
  ['    keep: { a: merged($.b, $.c) }', '    keep: { a: "merged($.b, $.c)" }'],
  ['    keep: { a: "$.b", c: $.d[?@.e == \'x, y\'] }', '    keep: { a: "$.b", c: "$.d[?@.e == \'x, y\']" }'],
  ['    json: { id: {$.a} }', '    json: { id: "{$.a}" }'],
];

const chain = (line: string): string => {
  const above = line.startsWith('      -')
    ? 'steps:\n  - call: a\n    request: GET /a\n    expect:\n'
    : 'steps:\n  - call: a\n    request: POST /a\n';
  return `${above}${line}\n`;
};

describe('what YAML eats is recognised, with the corrected line', () => {
  test.each(rows)('%s', (written, corrected) => {
    const found = chainProblems(chain(written));
    expect(found.map(({ code }) => code)).toContain('needs-quotes');
    expect(found.filter(({ code }) => code === 'needs-quotes')).toHaveLength(1);
    expect(correctedLine(found.find(({ code }) => code === 'needs-quotes')!)).toBe(corrected);
  });

  test.each(rows)('%s is gone when it is corrected', (written) => {
    const text = chain(written);
    const file = { path: 'test.chain.yaml', text };
    const { text: mended, count } = fixed(file, chainProblems(text));
    expect(count).toBe(1);
    expect(chainProblems(mended).map(({ code }) => code)).not.toContain('needs-quotes');
  });
});

test.each([
  ['    json: { id: "{$.a}", list: [1, 2], deep: { a: null } }'],
  ['      - $.a == 1 # one'],
  ["      - $.a == 'x:y'"],
  ['      - status in [200, 201]'],
  ['    about: a note (with parentheses), and a comma'],
])('no hazard: %s', (line) => {
  expect(chainProblems(chain(line)).map(({ code }) => code)).not.toContain('needs-quotes');
});

test('a placeholder without quotes', () => {
  const found = chainProblems(
    'steps:\n  - let: { vessel: 1 }\n  - call: a\n    request: POST /a\n    json:\n      id: {vessel.id}\n',
  );
  expect(found.map(({ code }) => code)).toEqual(['needs-quotes']);
  expect(correctedLine(found[0]!)).toBe('      id: "{vessel.id}"');
});

test('corrections keep to the quotes that are there', () => {
  const [found] = chainProblems("steps:\n  - call: a\n    request: GET /a\n    keep: { n: '$.next-cursor' }\n");
  expect(correctedLine(found!)).toBe("    keep: { n: '$[''next-cursor'']' }");
});

test('a corrected file is otherwise the same', () => {
  const text =
    '# above\nsteps:\n  - say:   hello   # beside\n  - call: a\n    request: GET /a\n    expect:\n      - !exists($.b)   \n';
  const { text: mended } = fixed({ path: 'test.chain.yaml', text }, chainProblems(text));
  expect(mended).toBe(text.replace('!exists($.b)', '"!exists($.b)"'));
  expect(lineOf({ path: '', text: mended }, 7)).toContain('"!exists($.b)"');
});

test('a text written as a scalar is read as that text', () => {
  const read = (scalar: string) => {
    const node = readYaml({ file: { path: '', text: `a: ${scalar}\n` }, report: () => {} });
    const [entry] = node?.kind === 'map' ? node.entries : [];
    return entry?.value.kind === 'scalar' ? entry.value.source.text : undefined;
  };
  fc.assert(
    fc.property(fc.string({ minLength: 1, maxLength: 20 }), (text) => {
      expect(read(yamlQuoted(text))).toBe(text);
      if (!/^\s|\s$/.test(text)) expect(read(yamlScalar(text))).toBe(text);
    }),
  );
});
