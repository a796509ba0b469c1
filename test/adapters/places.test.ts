import { mkdirSync, mkdtempSync, realpathSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { placeToWrite, projectOpener, projectReader } from '../../src/adapters/project-files.ts';
import { whyProtected } from '../../src/core/value/file-names.ts';

let base: string;
let folder: string;

beforeAll(() => {
  base = realpathSync(mkdtempSync(path.join(tmpdir(), 'places-')));
  folder = path.join(base, 'project');
  mkdirSync(path.join(folder, 'chains', 'deep'), { recursive: true });
  mkdirSync(path.join(folder, '.git'));
  mkdirSync(path.join(base, 'outside'));
  for (const name of ['batharon.yaml', 'secrets.env', 'chains/a.chain.yaml', '.git/config', 'data.json'])
    writeFileSync(path.join(folder, name), '{}');
  writeFileSync(path.join(base, 'outside', 'file'), 'outside');
  symlinkSync(path.join(base, 'outside'), path.join(folder, 'way-out'));
  symlinkSync(path.join(folder, 'secrets.env'), path.join(folder, 'notes.txt'));
  symlinkSync(path.join(base, 'outside', 'not-there'), path.join(folder, 'dangling'));
  symlinkSync(path.join(folder, 'data.json'), path.join(folder, 'alias.json'));
});
afterAll(() => rmSync(base, { recursive: true, force: true }));

const rules = () => ({ folder, chainFile: path.join(folder, 'chains', 'a.chain.yaml'), allowed: new Set<string>() });

/** Names as a chain or a response may give them, relative to the chain file, and the code with which each is refused. */
const hostile: readonly (readonly [name: string, code: string | undefined])[] = [
  ['../../outside/file', undefined],
  ['/etc/passwd', undefined],
  ['../way-out/file', undefined],
  ['../dangling', undefined],
  ['../batharon.yaml', 'file-protected'],
  ['../BATHARON.YAML', 'file-protected'],
  ['../batharon.local.yaml', 'file-protected'],
  ['../secrets.env', 'file-protected'],
  ['../Secrets.Env', 'file-protected'],
  ['../secrets\u200b.env', 'file-protected'],
  ['../notes.txt', 'file-protected'],
  ['a.chain.yaml', 'file-protected'],
  ['new.chain.yml', 'file-protected'],
  ['../.git/config', 'file-protected'],
  ['../.GIT/hooks/post-checkout', 'file-protected'],
  ['../GIT~1/config', 'file-protected'],
  ['../.batharon/tokens/x', 'file-protected'],
  ['../node_modules/x/index.js', 'file-protected'],
  ['../.env', 'file-protected'],
  ['../.bashrc', 'file-protected'],
  ['../nul', 'file-protected'],
  ['../NUL.csv', 'file-protected'],
  ['../com1.txt', 'file-protected'],
  ['../a:b.txt', 'file-protected'],
  ['../data.json:stream', 'file-protected'],
  ['../name.', 'file-protected'],
  ['../name ', 'file-protected'],
  ['../a\u0007b', 'file-protected'],
  ['deep', 'not-a-file'],
];

test.each(hostile)('%j is not written', (name, code) => {
  expect(placeToWrite(name, rules())).toMatchObject({ message: expect.any(String), ...(code ? { code } : {}) });
});

test.each(hostile)('%j is not read', (name) => {
  const read = projectReader(folder, rules().chainFile, new Set());
  expect(read(name)).toHaveProperty('message');
  expect(projectOpener(rules())(name)).toHaveProperty('message');
});

test.each(['../data.json', '../out/new.csv', 'deep/x.txt', '../a..b.txt', '../..c.txt', '../out/batharon.yaml.txt'])(
  '%j is written inside the project, unless it is hidden',
  (name) => {
    const place = placeToWrite(name, rules());
    if (name === '../..c.txt') expect(place).toHaveProperty('code', 'file-protected');
    else expect(place).toEqual({ file: path.resolve(folder, 'chains', name) });
  },
);

test('a link inside the project is written through', () => {
  expect(placeToWrite('../alias.json', rules())).toEqual({ file: path.join(folder, 'data.json') });
});

test('what the command line names may be anywhere', () => {
  const outside = path.join(base, 'outside', 'file');
  expect(projectReader(folder, rules().chainFile, new Set([outside]))(outside)).toHaveProperty('bytes');
});

test('no name whatever leads to a file of the project itself', () => {
  const part = fc.oneof(
    fc.constantFrom(
      '.',
      '..',
      '',
      '.git',
      'secrets.env',
      'batharon.yaml',
      'x.chain.yaml',
      'SECRETS.ENV',
      'out',
      'way-out',
    ),
    fc.string({ unit: 'grapheme', maxLength: 6 }),
  );
  fc.assert(
    fc.property(fc.array(part, { minLength: 1, maxLength: 5 }), fc.constantFrom('/', '//', '/./'), (parts, slash) => {
      const name = parts.join(slash).replaceAll('\0', '');
      const place = placeToWrite(name, rules());
      if ('message' in place) return;
      const inside = path.relative(folder, place.file);
      expect(inside.startsWith('..')).toBe(false);
      expect(whyProtected(inside)).toBeUndefined();
      expect(['batharon.yaml', 'secrets.env'].includes(inside.toLowerCase())).toBe(false);
    }),
    { numRuns: 500 },
  );
});
