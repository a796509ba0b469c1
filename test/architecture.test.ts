import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { catalogue } from '../src/core/diagnostics/catalogue.ts';

const root = path.join(__dirname, '..');
const below = (folder: string): readonly string[] =>
  readdirSync(path.join(root, folder), { recursive: true })
    .map((name) => path.join(folder, String(name)))
    .filter((name) => name.endsWith('.ts'));
const read = (name: string): string => readFileSync(path.join(root, name), 'utf8');

test('files are small, most of them under 100 lines', () => {
  const lengths = below('src')
    .map((name) => read(name).split('\n').length)
    .sort((a, b) => a - b);
  expect(lengths.at(-1)).toBeLessThanOrEqual(400);
  expect(lengths[Math.floor(lengths.length / 2)]).toBeLessThan(100);
});

test('every message code is used, and every code that is used is in the catalogue', () => {
  const sources = below('src')
    .filter((name) => !name.endsWith('catalogue.ts'))
    .map(read)
    .join('\n');
  const unused = Object.keys(catalogue).filter((code) => !sources.includes(`'${code}'`));
  expect(unused).toEqual([]);
  const used = [...sources.matchAll(/code: '([a-z-]+)'/g)].map((match) => match[1]!);
  expect(
    used.filter((code) => !Object.hasOwn(catalogue, code) && code !== 'custom' && code !== 'unrecognized_keys'),
  ).toEqual([]);
});

test('text leaves the process in one place', () => {
  // Lanes hold numbers and names of the project's own files, and nothing that came from outside.
  const elsewhere = below('src').filter((name) => !/adapters\/(exit|limiter-files)\.ts$/.test(name));
  const writers = elsewhere.filter((name) =>
    /\b(?:writeSync|appendFile|createWriteStream|stdout\.write|stderr\.write|console\.)/.test(read(name)),
  );
  expect(writers).toEqual([]);
});

test('the registry of packages is named nowhere in the lock file', () => {
  expect(read('package-lock.json')).not.toMatch(/"resolved": "https?:/);
});
