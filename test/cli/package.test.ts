import { execFileSync } from 'node:child_process';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

/** What a user gets: the packed file, installed into a folder that holds nothing else. */

const root = path.join(__dirname, '../..');
const folder = mkdtempSync(path.join(tmpdir(), 'batharon-package-'));
const home = path.join(folder, 'home');
let packed: { size: number; files: string[] };

const node = (...args: string[]) =>
  execFileSync(process.execPath, args, {
    cwd: folder,
    encoding: 'utf8',
    env: { PATH: process.env['PATH'], HOME: home } as unknown as NodeJS.ProcessEnv,
  });
const program = path.join(folder, 'node_modules/batharon/dist/batharon.cjs');

beforeAll(() => {
  packed = JSON.parse(
    execFileSync(process.execPath, ['scripts/install-packed.mjs', folder], { cwd: root, encoding: 'utf8' }),
  );
}, 120_000);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('it holds what it should, and at most 2 MB', () => {
  expect(packed.size).toBeLessThan(2_000_000);
  expect(packed.files).toEqual(
    expect.arrayContaining([
      'README.md',
      'CHANGELOG.md',
      'LICENSE',
      'dist/NOTICES.txt',
      'dist/index.d.cts',
      'demo/batharon.yaml',
    ]),
  );
  expect(
    packed.files.filter((name) => !/^(dist|demo)\/|^(README|CHANGELOG)\.md$|^(LICENSE|package\.json)$/.test(name)),
  ).toEqual([]);
});

test('every package whose code is in the bundles has its licence in the notices', () => {
  const list =
    "import('./scripts/bundle.mjs').then(async ({ bundle }) => console.log(JSON.stringify((await bundle('0')).sources)))";
  const sources = JSON.parse(
    execFileSync(process.execPath, ['-e', list], { cwd: root, encoding: 'utf8', maxBuffer: 1e8 }),
  ) as string[];
  const folders = sources.flatMap((source) => /^.*node_modules\/(?:@[^/]+\/)?[^/]+/.exec(source)?.[0] ?? []);
  const notices = readFileSync(path.join(folder, 'node_modules/batharon/dist/NOTICES.txt'), 'utf8');
  const bundled = [...new Set(folders)].map((each) => {
    const { name, version } = JSON.parse(readFileSync(path.join(root, each, 'package.json'), 'utf8'));
    return `${name} ${version}`;
  });
  const headings = [...notices.matchAll(/^-{80}\n(.*) \(.*\)$/gm)].flatMap(([, names]) => names!.split(', '));
  expect(headings.sort()).toEqual([...new Set(bundled)].sort());
  for (const each of ['undici', 'yaml', 'commander', 'express']) expect(headings.join()).toContain(each);
  expect(notices).not.toContain('undefined');
});

test('the version and the tour, and the code that the first start compiled is kept for the next', () => {
  const { version } = JSON.parse(readFileSync(path.join(root, 'package.json'), 'utf8'));
  expect(node(program, '--version')).toBe(`${version}\n`);
  expect(node(program, 'demo')).toContain('What to try next');
  const [build] = readdirSync(path.join(home, '.cache/batharon'));
  const kept = readdirSync(path.join(home, '.cache/batharon', build!));
  expect(kept).toContain('demo-program.cjs.bin');
  expect(kept.filter((name) => !name.endsWith('.bin'))).toEqual([]);
  expect(readdirSync(path.dirname(program))).not.toContain('compiled');
}, 60_000);

test('the library is there for both kinds of modules', () => {
  const names = 'loadProject,openJournal,reportFormats,runLoaded';
  expect(node('-e', "console.log(Object.keys(require('batharon')).join())").trim()).toBe(names);
  writeFileSync(
    path.join(folder, 'use.mjs'),
    `import { ${names} } from 'batharon';\nconsole.log([${names}].every(Boolean));\n`,
  );
  expect(node('use.mjs').trim()).toBe('true');
});

test('strict TypeScript compiles against it, as a CommonJS and as an ES module, without skipping its declarations', () => {
  cpSync(path.join(root, 'test/types'), folder, { recursive: true });
  expect(node(path.join(root, 'node_modules/typescript/bin/tsc'), '-p', '.')).toBe('');
}, 60_000);
