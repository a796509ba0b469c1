// Makes a fresh clone ready: installs the packages of the lock file and builds, each only when needed. Uses nothing
// that would have to be installed first.
import { execFileSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const installed = path.join(root, 'node_modules/.package-lock.json');
const lock = path.join(root, 'package-lock.json');

/** Without what an npm around this one has set: `npm install -g .` would make the inner one global too. */
function plainEnvironment() {
  return Object.fromEntries(
    Object.entries(process.env).filter(([name]) => !/^npm_config_(global|location|prefix|dry_run)$/i.test(name)),
  );
}

if (!existsSync(installed) || statSync(installed).mtimeMs < statSync(lock).mtimeMs) {
  console.log('installing packages ...');
  // Not `npm ci`: it refuses a lock file that does not name the binaries of every platform there is, and registries
  // do not hold them all. What the lock file does name is installed as it says.
  execFileSync('npm', ['install', '--no-save', '--ignore-scripts', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
    shell: process.platform === 'win32',
    env: plainEnvironment(),
  });
}
execFileSync(process.execPath, [path.join(root, 'scripts/build.mjs'), '--if-needed'], { cwd: root, stdio: 'inherit' });
