#!/usr/bin/env node
'use strict';
/* global BATHARON -- what the build puts here: { version, build, commands } */
// The file that is started. It knows the version without reading anything else, and keeps V8's compiled code of the
// program in the user's cache folder, written at the first start of each command: starting then takes half the time.
const words = process.argv.slice(2);
if (words.length === 1 && words[0] === '--version') process.stdout.write(`${BATHARON.version}\n`);
else start();

function start() {
  const fs = require('node:fs');
  const path = require('node:path');
  const vm = require('node:vm');
  const { createRequire, wrap } = require('node:module');
  const real = createRequire(__filename);
  // V8 optimises a function after so many bytes of its code have run, which in a process of a fifth of a second costs more
  // than it gives: `check` takes a twelfth less so. Only the V8 of Node 20 has this flag; others would complain of it.
  if (process.versions.node.startsWith('20.')) require('node:v8').setFlagsFromString('--interrupt-budget=500000');
  const command = words.find((word) => BATHARON.commands.includes(word)) ?? 'help';
  const folder = cacheFolder();
  const loaded = new Map();
  const uncached = [];

  load('program.cjs').start();
  process.once('exit', keep);

  /** Runs a file of this folder, from V8's compiled code of it where that is kept. */
  function load(name) {
    if (loaded.has(name)) return loaded.get(name).exports;
    const file = path.join(__dirname, name);
    const cache = path.join(folder, `${command}-${name}.bin`);
    let cachedData;
    try {
      cachedData = fs.readFileSync(cache);
    } catch {
      // The first start of this command: nothing is kept yet.
    }
    // The bundle is ASCII, so reading it as Latin-1 is right and fastest.
    const script = new vm.Script(wrap(fs.readFileSync(file, 'latin1')), { filename: file, cachedData });
    const module = { exports: {} };
    loaded.set(name, module);
    const require = (id) => (id.startsWith('./') ? load(id.slice(2)) : real(id));
    script.runInThisContext()(module.exports, require, module, file, __dirname);
    if (cachedData === undefined || script.cachedDataRejected) uncached.push({ script, cache });
    return module.exports;
  }

  /** V8 compares compiled code with its source by length alone: the build and the engine are in the folder's name. */
  function cacheFolder() {
    const { XDG_CACHE_HOME: xdg, LOCALAPPDATA: local } = process.env;
    const parent = [xdg, local].find((each) => each && path.isAbsolute(each)) ?? path.join(home(), '.cache');
    return path.join(parent, 'batharon', `${BATHARON.build}-${process.version}-${process.arch}`);
  }

  function home() {
    try {
      return require('node:os').homedir();
    } catch {
      return path.parse(__dirname).root; // A user without a home folder: nothing can be written there either.
    }
  }

  function keep() {
    if (uncached.length === 0) return;
    try {
      if (!fs.existsSync(folder)) removeOld(path.dirname(folder));
      fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
      for (const { script, cache } of uncached) {
        fs.writeFileSync(cache + process.pid, script.createCachedData());
        fs.renameSync(cache + process.pid, cache);
      }
    } catch {
      // The folder may not be writable; then the program starts a little slower.
    }
  }

  /** Removes the code of builds and engines from which nothing was written for thirty days. */
  function removeOld(parent) {
    if (!fs.existsSync(parent)) return;
    const limit = Date.now() - 30 * 24 * 3600 * 1000;
    for (const name of fs.readdirSync(parent)) {
      const old = path.join(parent, name);
      if (fs.statSync(old).mtimeMs < limit) fs.rmSync(old, { recursive: true, force: true });
    }
  }
}
