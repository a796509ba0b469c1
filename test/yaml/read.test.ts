import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import type { Problem } from '../../src/core/diagnostics/problem.ts';
import { readFullYaml, readYaml } from '../../src/core/yaml/read.ts';
import { readSimpleYaml } from '../../src/core/yaml/simple.ts';
import type { YamlNode } from '../../src/core/yaml/tree.ts';

const file = (text: string) => ({ path: 'test.yaml', text });

const problemsOf = (text: string): readonly Problem[] => {
  const problems: Problem[] = [];
  readYaml({ file: file(text), report: (problem) => problems.push(problem) });
  return problems;
};

/** A tree with keys, texts and the places of scalars; where collections end does not matter to anybody. */
const plainTree = (node: YamlNode): unknown => {
  if (node.kind === 'scalar') return [node.source.text, node.plain, node.range, node.source.locate([0, 1])];
  if (node.kind === 'list') return node.items.map(plainTree);
  return node.entries.map(({ key, keyRange, value }) => [key, keyRange, plainTree(value)]);
};

/** Reads with both readers; what the simple one reads, the full one reads in the same way. */
const compared = (text: string): boolean => {
  const simple = readSimpleYaml(file(text));
  if (!simple) return false;
  const problems: Problem[] = [];
  const full = readFullYaml(file(text), (problem) => problems.push(problem));
  expect(problems).toEqual([]);
  expect(plainTree(simple)).toEqual(plainTree(full!));
  return true;
};

describe('the reader for plain files agrees with the full one', () => {
  const demo = path.join(__dirname, '../../demo');
  const files = readdirSync(demo, { recursive: true })
    .map(String)
    // What YAML eats is left to the full reader.
    .filter((name) => name.endsWith('.yaml') && !/^(?:mistakes|openapi)/.test(name));
  test.each(files)('%s', (name) => expect(compared(readFileSync(path.join(demo, name), 'utf8'))).toBe(true));

  test.each([
    'a: 1\nb:\n  - x\n  - y: 2\n    z: "q\\u00e5"\n',
    'a:\n- x\n- y\n',
    "a: 'it''s'\nb: >\n  folded\n  text\nc: |\n  line\n  line\n",
    'a: {b: 1, "c d": [1, two, \'3\']}\n',
    'a:\nb: # comment\n  c: 1 # more\n\n# end\n',
    'a: several\n  lines of text\n',
    '- 1\n- 2\n',
    '"quoted key": 1\n',
    'a: "x # y"\nb: x#y\n',
  ])('%j', (text) => expect(compared(text)).toBe(true));

  test('whatever the text', () => {
    const unit = fc.constantFrom(
      'a',
      'b: ',
      '- ',
      '\n',
      '  ',
      ' ',
      ':',
      '#',
      ' # c',
      '"',
      "'",
      '{',
      '}',
      '[',
      ']',
      ',',
      '|',
      '>',
      '&x',
      '*x',
      '!t',
      '1',
      '---',
      '\t',
      '?',
      '<<: ',
      '%',
      '@',
    );
    const text = fc.array(unit, { maxLength: 14 }).map((units) => units.join(''));
    const known = fc.array(
      fc.constantFrom('a: 1\n', 'b:\n', '  - x\n', '  c: {d: 1}\n', '  e: "f"\n', '- g: h\n', '# i\n', '   j\n', '\n'),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(
        fc.oneof(
          text,
          known.map((lines) => lines.join('')),
        ),
        (yaml) => void compared(yaml),
      ),
      {
        numRuns: Number(process.env['SOAK'] ?? 5000),
      },
    );
  });
});

describe('what is not read says so in plain words', () => {
  test.each([
    ['a: 1\na: 2\n', 'duplicate-key'],
    ['a:\n\t- b\n', 'tab-indented'],
    ['a: b: c\n', 'not-yaml'],
    ['a: [1\n', 'not-yaml'],
    ['a: !tag x\n', 'yaml-not-allowed'],
    ['a: &x 1\nb:\n  <<: *x\n', 'yaml-not-allowed'],
    ['a: 1\n---\nb: 2\n', 'yaml-not-allowed'],
    ['{a: 1}: b\n', 'yaml-not-allowed'],
    [`${'a: {'.repeat(80)}`, 'not-yaml'],
    [`a: ${'['.repeat(80)}${']'.repeat(80)}\n`, 'file-too-big'],
    ['a: "\\q"\n', 'not-yaml'],
  ])('%j', (text, code) => expect(problemsOf(text).map((problem) => problem.code)).toContain(code));

  test('an alias bomb ends in a message, quickly', () => {
    const lines = ['a0: &a0 [x, x, x, x, x, x, x, x, x]'];
    for (let i = 1; i < 12; i++)
      lines.push(`a${i}: &a${i} [${Array.from({ length: 9 }, () => `*a${i - 1}`).join(', ')}]`);
    expect(problemsOf(lines.join('\n')).map((problem) => problem.code)).toEqual(['over-limit']);
  });

  test('plain anchors and aliases are read', () => {
    expect(problemsOf('a: &x {b: 1}\nc: *x\n')).toEqual([]);
  });
});

describe('places inside scalars', () => {
  const place = (text: string, inner: readonly [number, number]): string => {
    const tree = readYaml({ file: file(text), report: () => undefined });
    const value = tree?.kind === 'map' ? tree.entries[0]!.value : undefined;
    const [from, to] = value?.kind === 'scalar' ? value.source.locate(inner) : [0, 0];
    return text.slice(from, to);
  };
  test.each<[string, readonly [number, number], string]>([
    ['a: $.next == 1\n', [2, 6], 'next'],
    ['a: "$.next == 1"\n', [2, 6], 'next'],
    ["a: '$[''b''] == 1'\n", [3, 4], 'b'],
    ['a: "\\u00e5b"\n', [1, 2], 'b'],
    ['a: "\\"b\\""\n', [1, 2], 'b'],
    ['a: |\n  one\n  two\n', [4, 7], 'two'],
    ['a: >\n  one\n  two\n', [0, 3], '>'],
  ])('%j', (text, inner, expected) => expect(place(text, inner)).toBe(expected));
});
