import { existsSync } from 'node:fs';
import path from 'node:path';
import { chromium, type Browser } from 'playwright-core';

/** What some tests need beside Node, and where it is. `script` must be that of util-linux: others take other options. */
const tools = {
  chromium: ['/usr/bin'],
  lighttpd: ['/usr/sbin'],
  nginx: ['/usr/sbin'],
  nvim: ['/usr/bin'],
  openssl: (process.env['PATH'] ?? '').split(path.delimiter),
  'redis-server': ['/usr/bin', '/usr/local/bin'],
  script: process.platform === 'linux' ? ['/usr/bin', '/bin'] : [],
} as const;

export type Tool = keyof typeof tools;

const isThere = (tool: Tool) => tools[tool].some((folder) => existsSync(path.join(folder, tool)));

/** Says by name what is left out here. With CI=true nothing is: the test runs, and fails. */
function leftOut(name: string, needed: readonly Tool[]): boolean {
  const missing = needed.filter((tool) => !isThere(tool));
  if (missing.length === 0 || process.env['CI'] === 'true') return false;
  process.stderr.write(`skipped: ${name} (${missing.join(' and ')} missing)\n`);
  return true;
}

/** A test that needs programs of the machine: skipped by name where one is missing. */
export function testWith(needed: readonly Tool[], name: string, run: () => Promise<unknown>, timeout?: number): void {
  (leftOut(name, needed) ? test.skip : test)(name, run as () => Promise<void>, timeout);
}

/** As `testWith`, for tests that stand together. */
export function describeWith(needed: readonly Tool[], name: string, run: () => void): void {
  (leftOut(name, needed) ? describe.skip : describe)(name, run);
}

/** A browser without a window that asks nothing of the network by itself. */
export function openBrowser(): Promise<Browser> {
  return chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
}
