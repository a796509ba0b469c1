import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { watchFolders } from '../../src/cli/watched-folders.ts';

test('a save is seen in every folder of the project, new ones included; records and other files are not', async () => {
  const top = mkdtempSync(path.join(tmpdir(), 'batharon-watched-'));
  for (const name of ['chains/inner', '.batharon/runs', 'node_modules/a'])
    mkdirSync(path.join(top, name), { recursive: true });
  let saved = () => {};
  let saves = 0;
  const end = watchFolders(top, () => (saves++, saved()));
  const next = () => new Promise<void>((resolve) => (saved = resolve));
  const write = (name: string) => writeFileSync(path.join(top, name), 'x');
  try {
    for (const name of ['.batharon/runs/a.json', 'node_modules/a/package.json', 'chains/notes.txt']) write(name);
    for (const name of ['batharon.yaml', 'chains/a.chain.yaml', 'chains/inner/b.json', 'secrets.env']) {
      const seen = next();
      write(name);
      await seen;
    }
    // Written again until it is seen: a folder is watched a moment after it was made.
    mkdirSync(path.join(top, 'later'));
    const seen = next().then(() => true);
    const again = setInterval(() => write('later/c.yaml'), 20);
    expect(await seen).toBe(true);
    clearInterval(again);
    expect(saves).toBeGreaterThanOrEqual(5);
  } finally {
    end();
    rmSync(top, { recursive: true, force: true });
  }
});
