// Bundles the program into dist/: one entry and one piece for each command, so that each loads only what it needs.
import { build } from 'esbuild';
import { existsSync, readdirSync, readFileSync, rmSync, statSync, chmodSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const entry = path.join(root, 'dist/batharon.js');

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
  await build({
    absWorkingDir: root,
    entryPoints: { batharon: 'src/cli/bin.ts' },
    outdir: 'dist',
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    minifySyntax: true,
    minifyWhitespace: true,
    legalComments: 'none',
    define: { BATHARON_VERSION: JSON.stringify(version) },
    // Packages in CommonJS ask for Node's own modules by require, which modules do not have by themselves.
    banner: { js: "import{createRequire as __createRequire}from'node:module';const require=__createRequire(import.meta.url);" },
    logLevel: 'warning',
  });
  const text = readFileSync(entry, 'utf8');
  if (!text.startsWith('#!')) {
    const { writeFileSync } = await import('node:fs');
    writeFileSync(entry, `#!/usr/bin/env node\n${text}`);
  }
  chmodSync(entry, 0o755);
}
