import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import ts from 'typescript';
import { catalogue } from '../src/core/diagnostics/catalogue.ts';

const root = path.join(__dirname, '..');
const below = (folder: string): readonly string[] =>
  readdirSync(path.join(root, folder), { recursive: true })
    .map((name) => path.join(folder, String(name)))
    .filter((name) => /\.tsx?$/.test(name));
const read = (name: string): string => readFileSync(path.join(root, name), 'utf8');

test('files are small, most of them under 80 lines', () => {
  const lengths = below('src')
    .map((name) => read(name).split('\n').length)
    .sort((a, b) => a - b);
  expect(lengths.at(-1)).toBeLessThanOrEqual(300);
  expect(lengths[Math.floor(lengths.length / 2)]).toBeLessThan(80);
});

/** Codes of Zod, and that of a fault of our own, which no example can bring about. */
const OTHER_CODES: ReadonlySet<string> = new Set(['custom', 'unrecognized_keys', 'internal']);

test('every message code is used, and every code that is used is in the catalogue', () => {
  const sources = below('src')
    .filter((name) => !name.endsWith('catalogue.ts'))
    .map(read)
    .join('\n');
  const unused = Object.keys(catalogue).filter((code) => !sources.includes(`'${code}'`));
  expect(unused).toEqual([]);
  const used = [...sources.matchAll(/code: '([a-z-]+)'/g)].map((match) => match[1]!);
  expect(used.filter((code) => !Object.hasOwn(catalogue, code) && !OTHER_CODES.has(code))).toEqual([]);
});

test('text leaves the process in one place', () => {
  // Lanes hold numbers and names of the project's own files, and nothing that came from outside.
  const elsewhere = below('src').filter((name) => !/adapters\/(write-all|limiter-files)\.ts$/.test(name));
  const writers = elsewhere.filter((name) =>
    /\b(?:writeSync|appendFile|createWriteStream|stdout\.write|stderr\.write|console\.)/.test(read(name)),
  );
  expect(writers).toEqual([]);
  const users = below('src').filter((name) => /from '[^']*\/write-all\.ts'/.test(read(name)));
  expect(users.map((name) => path.basename(name)).sort()).toEqual([
    'masked-output.ts',
    'rows-file.ts',
    'saving-files.ts',
  ]);
});

test('the registry of packages is named nowhere in the lock file', () => {
  expect(read('package-lock.json')).not.toMatch(/"resolved": "https?:/);
});

test('addresses of steps are taken apart in one place', () => {
  const elsewhere = below('src').filter((name) => !name.endsWith('journal/address.ts'));
  expect(elsewhere.filter((name) => /#\(?\\d|split\('\/'\)\[0\]/.test(read(name)))).toEqual([]);
});

test('imports go in no circle, those of types neither', () => {
  const imports = new Map(below('src').map((name) => [name, importsOf(name)]));
  expect([...circlesIn(imports)]).toEqual([]);
});

test('what is exported is used in another file', () => {
  const all = [...below('src'), ...below('test')].map((name) => [name, new Set(read(name).match(/\w+/g))] as const);
  const unused = below('src')
    .filter((name) => !/^src\/(?:index|program|library\/.*)\.ts$/.test(name))
    .flatMap((name) =>
      [...read(name).matchAll(/^export (?:async |abstract )*(?:function\*?|const|class|type|interface) (\w+)/gm)]
        .map(([, exported]) => exported!)
        .filter((exported) => !all.some(([other, words]) => other !== name && words.has(exported)))
        .map((exported) => `${name} ${exported}`),
    );
  expect(unused).toEqual([]);
});

function importsOf(name: string): readonly string[] {
  return ts
    .preProcessFile(read(name))
    .importedFiles.filter(({ fileName }) => fileName.startsWith('.'))
    .map(({ fileName }) => path.join(path.dirname(name), fileName));
}

/** Files that import themselves through others, each circle by one path. */
function* circlesIn(imports: ReadonlyMap<string, readonly string[]>): Iterable<string> {
  const done = new Set<string>();
  const under: string[] = [];
  function* visit(name: string): Iterable<string> {
    if (under.includes(name)) return void (yield [...under.slice(under.indexOf(name)), name].join(' -> '));
    if (done.has(name)) return;
    under.push(name);
    for (const each of imports.get(name) ?? []) yield* visit(each);
    under.pop();
    done.add(name);
  }
  for (const name of imports.keys()) yield* visit(name);
}
