// Packs the program and installs it into a folder, as a user would: `node scripts/install-packed.mjs FOLDER`.
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { root } from './bundle.mjs';

/** Gives the size of the packed file in bytes and the names of the files in it. */
export function installPacked(folder) {
  const npm = (args, cwd) =>
    execFileSync('npm', [...args, '--no-audit', '--no-fund', '--loglevel=error', '--foreground-scripts=false'], {
      cwd,
      encoding: 'utf8',
    });
  const [{ filename, size, files }] = JSON.parse(npm(['pack', '--json', '--pack-destination', folder], root));
  writeFileSync(path.join(folder, 'package.json'), '{ "name": "empty", "private": true }\n');
  npm(['install', '--offline', path.join(folder, filename)], folder);
  return { size, files: files.map((each) => each.path) };
}

if (import.meta.filename === process.argv[1]) console.log(JSON.stringify(installPacked(path.resolve(process.argv[2]))));
