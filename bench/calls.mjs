// What a call costs beyond the request itself: 2,000 calls in order, journal on, against bare undici.
import { spawn } from 'node:child_process';
import { rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import path from 'node:path';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { program, writeProject } from './project.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));
const CALLS = 2000;

export async function measureCalls() {
  const server = spawn(process.execPath, [path.join(here, 'server.mjs')], { stdio: ['ignore', 'pipe', 'inherit'] });
  const port = await new Promise((resolve) => server.stdout.once('data', (data) => resolve(String(data).trim())));
  const url = `http://127.0.0.1:${port}`;
  const folder = writeProject(url, CALLS);
  const [bare, check, run] = inTurns(
    7,
    () => timeOf(process.execPath, [path.join(here, 'bare.mjs'), url, String(CALLS)]),
    () => timeOf(process.execPath, [program, 'check', 'many.chain.yaml'], { cwd: folder }),
    () => timeOf(process.execPath, [program, 'run', 'many.chain.yaml'], { cwd: folder }),
  );
  server.kill();
  rmSync(folder, { recursive: true });
  note('2,000 calls, against bare undici', (run - check) / bare, 1.4, `${ms(run)} less ${ms(check)} and ${ms(bare)}`);
}
