// Builds dist/: the bundles, the launcher, the library's entry and the notices of what is bundled.
// `--if-needed` does nothing when dist/ is newer than what it is made of.
import { transformSync } from 'esbuild';
import { createHash } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { bundle, root } from './bundle.mjs';
import { noticesOf } from './notices.mjs';

const dist = path.join(root, 'dist');
const entry = path.join(dist, 'batharon.cjs');

/** The launcher reads the bundles as Latin-1. Texts are escaped by the bundler; regular expressions are not. */
function refuseBeyondAscii({ name, text }) {
  const found = /.{0,40}[^\0-\x7f].{0,40}/.exec(text);
  if (found) throw new Error(`${name} is not ASCII; write \\u.... in the regular expression: ${found[0]}`);
}

/** The library: every name written out, so that an ES module can import it by name. */
function libraryEntry(names) {
  return [
    "'use strict';",
    "const { library } = require('./program.cjs');",
    ...names.map((name) => `exports.${name} = library.${name};`),
    '',
  ].join('\n');
}

async function main() {
  const { version } = JSON.parse(readFileSync(path.join(root, 'package.json'), 'utf8'));
  const { files, sources } = await bundle(version);
  files.forEach(refuseBeyondAscii);
  rmSync(dist, { recursive: true, force: true });
  mkdirSync(dist);
  for (const { name, text } of files) writeFileSync(path.join(dist, name), text);
  const { library, commandNames } = createRequire(import.meta.url)(path.join(dist, 'program.cjs'));
  writeFileSync(path.join(dist, 'index.cjs'), libraryEntry(Object.keys(library)));
  writeFileSync(path.join(dist, 'NOTICES.txt'), noticesOf(sources));
  const build = files
    .reduce((hash, { text }) => hash.update(text), createHash('sha256'))
    .digest('hex')
    .slice(0, 12);
  const launcher = transformSync(readFileSync(path.join(root, 'scripts/launcher.cjs'), 'utf8'), {
    define: { BATHARON: JSON.stringify({ version, build, commands: commandNames }) },
    minifyWhitespace: true,
    platform: 'node',
  });
  writeFileSync(entry, launcher.code);
  chmodSync(entry, 0o755);
}

function newest(folder) {
  return Math.max(
    0,
    ...readdirSync(folder, { withFileTypes: true }).map((each) =>
      each.isDirectory() ? newest(path.join(folder, each.name)) : statSync(path.join(folder, each.name)).mtimeMs,
    ),
  );
}

const sources = ['src', 'scripts'].map((name) => newest(path.join(root, name)));
const made = Math.max(...sources, statSync(path.join(root, 'package.json')).mtimeMs);
const isFresh = existsSync(entry) && statSync(entry).mtimeMs > made;
if (!(process.argv.includes('--if-needed') && isFresh)) await main();
