// Writes docs/reference/ from the definitions in the code; a test fails when the files are stale.
import { build } from 'esbuild';
import { mkdirSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const bundle = path.join(tmpdir(), `batharon-reference-${process.pid}.cjs`);
await build({
  absWorkingDir: root,
  entryPoints: ['src/core/reference/markdown.ts'],
  outfile: bundle,
  bundle: true,
  platform: 'node',
  format: 'cjs',
  logLevel: 'warning',
});
const { referenceFiles } = createRequire(import.meta.url)(bundle);
const folder = path.join(root, 'docs/reference');
mkdirSync(folder, { recursive: true });
for (const [name, text] of Object.entries(referenceFiles())) writeFileSync(path.join(folder, name), text);
