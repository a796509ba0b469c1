// Installs the Debian packages that tests need and that are missing: a browser, and servers of other makes. Where that
// cannot be done, tests that need them are skipped by name; with CI=true nothing may be skipped, and this fails.
import { spawnSync } from 'node:child_process';
import { installPackages, missingPackages } from './debian.mjs';

const isCi = process.env.CI === 'true';
const missing = missingPackages({
  chromium: '/usr/bin/chromium',
  lighttpd: '/usr/sbin/lighttpd',
  'nginx-light': '/usr/sbin/nginx',
  neovim: '/usr/bin/nvim',
  'redis-server': '/usr/bin/redis-server',
});
const mayInstall = process.getuid?.() === 0 && spawnSync('apt-get', ['--version']).status === 0;
if (mayInstall || isCi) {
  try {
    installPackages(missing);
  } catch (error) {
    if (isCi) throw error;
  }
}
