// Installs the Debian packages that tests need and that are missing: a browser, and a server of another make. Where that
// cannot be done, tests that need them are skipped by name; with CI=true nothing may be skipped, and this fails.
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

const wanted = { chromium: '/usr/bin/chromium', lighttpd: '/usr/sbin/lighttpd' };
const missing = Object.keys(wanted).filter((name) => !existsSync(wanted[name]));
const mayInstall = process.getuid?.() === 0 && spawnSync('apt-get', ['--version']).status === 0;
if (missing.length > 0 && (mayInstall || process.env.CI === 'true')) {
  console.log(`installing ${missing.join(', ')} ...`);
  const quietly = {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  };
  try {
    execFileSync('apt-get', ['update', '-qq'], quietly);
    execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], quietly);
  } catch (error) {
    if (process.env.CI === 'true') throw error;
  }
}
