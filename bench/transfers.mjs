// Bodies too long to hold: one that is saved, one whose lines are looped over. What they take of memory.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { ms, note } from './measure.mjs';
import { program } from './project.mjs';
import { watched } from './watched.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));
const SAVED = 500_000_000;
const LOOPED = Number(process.env.LOOPED ?? 1_000_000_000);

const chain = (name, request, more) =>
  `name: ${name}\napi: harbour\nsteps:\n  - call: vessels\n    request: ${request}\n${more}`;

export async function measureTransfers() {
  const server = spawn(process.execPath, [path.join(here, 'line-server.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const port = await new Promise((resolve) => server.stdout.once('data', (data) => resolve(String(data).trim())));
  const cwd = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  writeFileSync(path.join(cwd, 'batharon.yaml'), `apis:\n  harbour:\n    url: http://127.0.0.1:${port}\n`);
  const save = '    save: vessels.ndjson\n';
  writeFileSync(path.join(cwd, 'saved.chain.yaml'), chain('saved', `GET /ndjson?size=${SAVED}`, save));
  const loop = '    keep: { vessels: $ }\n  - each: vessel in vessels\n    gather: { numbers: "{vessel.number}" }\n';
  writeFileSync(path.join(cwd, 'looped.chain.yaml'), chain('looped', `GET /ndjson?size=${LOOPED}`, loop));
  for (const [name, size] of [
    ['saved', SAVED],
    ['looped', LOOPED],
  ]) {
    const { took, peak } = await watched([program, 'run', `${name}.chain.yaml`], { cwd });
    note(
      `a response of ${size / 1e6} MB ${name}: memory of 120 MiB`,
      peak / 120,
      1,
      `${peak.toFixed(0)} MiB, ${ms(took)}`,
    );
  }
  server.kill();
  rmSync(cwd, { recursive: true });
}
