import { chmodSync, existsSync, lstatSync, mkdirSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { projectFile, SECRETS, useHarbour } from '../support/harbour.ts';
import { useFolders } from '../support/program.ts';

const harbour = useHarbour();
const folderWith = useFolders();
const project = () =>
  folderWith({
    'batharon.yaml': projectFile(harbour()),
    'secrets.env': SECRETS,
    'a.chain.yaml':
      'api: harbour\nsteps:\n  - call: berths\n    request: GET /berths\n    keep: { b: $.berths }\noutputs: [b]\n',
  });

/** Every way to name a file for a result. */
const ways: readonly (readonly [what: string, args: (file: string) => readonly string[]])[] = [
  ['--out', (file) => ['run', 'a.chain.yaml', '--out', file]],
  ['--report', (file) => ['run', 'a.chain.yaml', '--report', `json=${file}`]],
  ['send --save', (file) => ['send', 'GET', '/berths', '--api', 'harbour', '--save', file]],
];

describe.each(ways)('%s', (_what, args) => {
  test.concurrent('a link is written through, and stays', async () => {
    const place = project();
    symlinkSync('real.json', path.join(place.path, 'link.json'));
    expect((await place.run(args('link.json'))).status).toBe(0);
    expect(lstatSync(path.join(place.path, 'link.json')).isSymbolicLink()).toBe(true);
    expect(statSync(path.join(place.path, 'real.json')).size).toBeGreaterThan(100);
  });

  test.concurrent('a file keeps its mode, and nothing else is left', async () => {
    const place = project();
    const file = path.join(place.path, 'old.json');
    writeFileSync(file, 'old');
    chmodSync(file, 0o640);
    expect((await place.run(args('old.json'))).status).toBe(0);
    expect(statSync(file).mode & 0o777).toBe(0o640);
    expect(place.all().filter(([name]) => /part|\.old\.json/.test(name))).toEqual([]);
  });

  test.concurrent('a device is written to, and not replaced', async () => {
    const { status } = await project().run(args('/dev/null'));
    expect([status, lstatSync('/dev/null').isCharacterDevice()]).toEqual([0, true]);
  });

  test.concurrent.each(['batharon.yaml', 'a.chain.yaml', 'secrets.env', '.batharon/x'])(
    '%s is refused',
    async (file) => {
      const place = project();
      const before = existsSync(path.join(place.path, file)) ? place.read(file) : undefined;
      const { err, status } = await place.run(args(file));
      expect([status, err]).toEqual([2, expect.stringContaining('file-protected')]);
      if (before !== undefined) expect(place.read(file)).toBe(before);
    },
  );

  test.concurrent('a folder is refused', async () => {
    const place = project();
    mkdirSync(path.join(place.path, 'folder'));
    const { err, status } = await place.run(args('folder'));
    expect([status, err]).toEqual([2, expect.stringContaining('not-a-file')]);
  });

  test.concurrent('a full disk is told in a sentence', async () => {
    const { err, status } = await project().run(args('/dev/full'));
    expect(status === 3 || status === 1).toBe(true);
    expect(err).toMatch(/not-writable|cannot be written|could not be written/);
    expect(err).not.toMatch(/internal|at Object\.|node:/);
  });
});
