// Bundles the program into dist/: the program, the pieces that are loaded when needed, and a launcher.
// `--if-needed` does nothing when dist/ is newer than what it is made of.
import { build } from 'esbuild';
import { createHash } from 'node:crypto';
import { chmodSync, existsSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const entry = path.join(root, 'dist/batharon.cjs');

/** Pieces of their own: large, needed by few commands, and sharing no classes with the program. */
const pieces = {
  transport: 'src/adapters/transport.ts',
  harbour: 'src/harbour/server.ts',
  'iconv-lite': 'iconv-lite',
  luxon: 'luxon',
  'csv-parse': 'csv-parse/sync',
  'csv-parse-stream': 'csv-parse',
  'csv-stringify': 'csv-stringify/sync',
  xmldom: '@xmldom/xmldom',
  xpath: 'xpath',
  'http-link-header': 'http-link-header',
  oauth4webapi: 'oauth4webapi',
  'tough-cookie': 'tough-cookie',
  prompts: 'src/adapters/prompts.ts',
  'json-schema': 'src/core/json-schema-packages.ts',
  'html-packages': 'src/core/report/formats/html-packages.ts',
};

/** Leaves the pieces out of a bundle: importing one becomes requiring its own file. */
function leftOut(names) {
  return {
    name: 'pieces',
    setup({ onResolve }) {
      for (const name of names) {
        const entry = pieces[name];
        const wanted = entry.startsWith('src/') ? `/${path.basename(entry)}` : entry;
        onResolve({ filter: new RegExp(`(^|/)${wanted.replaceAll('.', '\\.').replace(/^\//, '')}$`) }, ({ kind }) =>
          kind === 'dynamic-import' || kind === 'require-call' ? { path: `./${name}.cjs`, external: true } : undefined,
        );
      }
    },
  };
}

/** The launcher reads the bundles as Latin-1. Texts are escaped by the bundler; regular expressions are not. */
function refuseBeyondAscii() {
  for (const name of ['main', ...Object.keys(pieces)]) {
    const text = readFileSync(path.join(root, 'dist', `${name}.cjs`), 'utf8');
    const found = /.{0,40}[^\0-\x7f].{0,40}/.exec(text);
    if (found) throw new Error(`dist/${name}.cjs is not ASCII; write \\u.... in the regular expression: ${found[0]}`);
  }
}

/** Names the compiled code, which V8 itself compares with its source by length alone: code of another build never fits. */
function hashOfBundles() {
  const hash = createHash('sha256');
  for (const name of ['main', ...Object.keys(pieces)])
    hash.update(readFileSync(path.join(root, 'dist', `${name}.cjs`)));
  return hash.digest('hex').slice(0, 12);
}

/** Commander asks for child processes at start, for commands that are programs of their own; there are none here. */
const withoutProcesses = {
  name: 'without-processes',
  setup({ onResolve, onLoad }) {
    onResolve({ filter: /^node:child_process$/ }, ({ importer }) =>
      /[\\/]commander[\\/]/.test(importer) ? { path: 'child_process', namespace: 'empty' } : undefined,
    );
    onLoad({ filter: /.*/, namespace: 'empty' }, () => ({ contents: 'module.exports = {};' }));
  },
};

/**
 * The file that is started. It knows the version without reading anything else, and keeps V8's compiled code of the
 * program beside it, one file a command, written at the command's first start and after an upgrade of Node.
 */
function launcher(version, build) {
  return `#!/usr/bin/env node
'use strict';
const words = process.argv.slice(2);
if (words.length === 1 && words[0] === '--version') {
  process.stdout.write(${JSON.stringify(`${version}\n`)});
} else {
  // V8 optimises a function after so many bytes of its code have run. The default pays for servers; in a process that is
  // over in a fifth of a second it costs more than it gives. Long runs are optimised all the same, a moment later.
  // Only where the flag is known to exist: another V8 would complain of it.
  const v8 = Number(process.versions.v8.split('.')[0]);
  if (v8 >= 11 && v8 <= 13) require('node:v8').setFlagsFromString('--interrupt-budget=500000');
  const fs = require('node:fs');
  const path = require('node:path');
  const vm = require('node:vm');
  const { createRequire, wrap } = require('node:module');
  const word = words.find((each) => /^[a-z][a-z-]*$/.test(each)) ?? 'help';
  const real = createRequire(__filename);
  const loaded = new Map();

  // Runs a file of this folder from V8's compiled code of it, which is written when the process ends for the first time.
  function load(name) {
    if (loaded.has(name)) return loaded.get(name).exports;
    const file = path.join(__dirname, name);
    const cache = path.join(__dirname, 'compiled', word + '-' + name + '-${build}-' + process.version + '.bin');
    let cachedData;
    try {
      cachedData = fs.readFileSync(cache);
    } catch {}
    // The bundle is ASCII, so reading it as Latin-1 is right and fastest.
    const script = new vm.Script(wrap(fs.readFileSync(file, 'latin1')), { filename: file, cachedData });
    const module = { exports: {} };
    loaded.set(name, module);
    script.runInThisContext()(module.exports, (id) => (id.startsWith('./') ? load(id.slice(2)) : real(id)), module, file, __dirname);
    if (cachedData === undefined || script.cachedDataRejected) process.once('exit', () => keep(script, cache));
    return module.exports;
  }

  function keep(script, cache) {
    try {
      fs.mkdirSync(path.dirname(cache), { recursive: true });
      fs.writeFileSync(cache + process.pid, script.createCachedData());
      fs.renameSync(cache + process.pid, cache);
    } catch {
      // Where the program is installed may not be writable; then it starts a little slower.
    }
  }

  load('main.cjs');
}
`;
}

function newest(folder) {
  return Math.max(
    0,
    ...readdirSync(folder, { withFileTypes: true }).map((each) =>
      each.isDirectory() ? newest(path.join(folder, each.name)) : statSync(path.join(folder, each.name)).mtimeMs,
    ),
  );
}

const sources = Math.max(newest(path.join(root, 'src')), statSync(path.join(root, 'package.json')).mtimeMs);
const isFresh = existsSync(entry) && statSync(entry).mtimeMs > sources;
if (!(process.argv.includes('--if-needed') && isFresh)) {
  const { version } = JSON.parse(readFileSync(path.join(root, 'package.json'), 'utf8'));
  rmSync(path.join(root, 'dist'), { recursive: true, force: true });
  const common = {
    absWorkingDir: root,
    outdir: 'dist',
    outExtension: { '.js': '.cjs' },
    bundle: true,
    format: 'cjs',
    platform: 'node',
    target: 'node20',
    minifySyntax: true,
    minifyWhitespace: true,
    legalComments: 'none',
    logLevel: 'warning',
    // Requiring is faster than importing, and code that was read from the cache can do it.
    supported: { 'dynamic-import': false },
    define: { BATHARON_VERSION: JSON.stringify(version) },
  };
  // The program, and beside it what only some commands need: read when it is asked for, and not before.
  await build({
    ...common,
    entryPoints: { main: 'src/cli/bin.ts' },
    plugins: [leftOut(Object.keys(pieces)), withoutProcesses],
  });
  // The same as a library, which shares the pieces.
  await build({
    ...common,
    entryPoints: { index: 'src/index.ts' },
    plugins: [leftOut(Object.keys(pieces)), withoutProcesses],
  });
  await build({ ...common, entryPoints: pieces });
  refuseBeyondAscii();
  writeFileSync(entry, launcher(version, hashOfBundles()));
  chmodSync(entry, 0o755);
}
