// Installs the Debian packages that tests need and that are missing: a browser, and a server of another make.
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';

const wanted = { chromium: '/usr/bin/chromium', lighttpd: '/usr/sbin/lighttpd' };
const missing = Object.keys(wanted).filter((name) => !existsSync(wanted[name]));
if (missing.length > 0) {
  console.log(`installing ${missing.join(', ')} ...`);
  const quietly = {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  };
  execFileSync('apt-get', ['update', '-qq'], quietly);
  execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], quietly);
}
