// npm run soak: the properties of the test suite, run very many times (SOAK sets how many, default 300,000), runs that
// are killed (KILLS, default 200, and 1,000 with answers, edits and renames between them).
import { execFileSync } from 'node:child_process';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
execFileSync('npx', ['jest', 'properties', 'yaml', 'fuzz', 'by-accident', '--testTimeout=3600000'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, SOAK: process.env.SOAK ?? '300000' },
});
execFileSync('npx', ['jest', 'cli/editor-memory', 'editor/completion'], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, SOAK: '1' },
});
execFileSync('npx', ['jest', 'cli/fleet'], { cwd: root, stdio: 'inherit', env: { ...process.env, SOAK: '200' } });
for (const script of ['soak-kill.mjs', 'soak-settling.mjs'])
  execFileSync(process.execPath, [path.join(root, 'scripts', script)], { stdio: 'inherit' });
