// Packages of Debian that some scripts need beside Node.
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';

/** The packages of which the file is not there; `wanted` names a file of each. */
export function missingPackages(wanted) {
  return Object.keys(wanted).filter((name) => !existsSync(wanted[name]));
}

/** Installs them; throws where that cannot be done. */
export function installPackages(names) {
  if (names.length === 0) return;
  console.log(`installing ${names.join(', ')} ...`);
  const quietly = {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  };
  execFileSync('apt-get', ['update', '-qq'], quietly);
  execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...names], quietly);
}
