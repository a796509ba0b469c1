// How long the program takes to start, against bare Node. Many rounds: the time of so short a process varies a lot.
import { spawn } from 'node:child_process';
import { rmSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { program, writeProject } from './project.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));

/** A single request, from the first keystroke to its answer. */
export async function measureSend() {
  const server = spawn(process.execPath, [path.join(here, 'server.mjs')], { stdio: ['ignore', 'pipe', 'inherit'] });
  const port = await new Promise((resolve) => server.stdout.once('data', (data) => resolve(String(data).trim())));
  const url = `http://127.0.0.1:${port}`;
  const folder = writeProject(url, 1);
  const [bare, send] = inTurns(
    21,
    () => timeOf(process.execPath, [path.join(here, 'bare-send.mjs'), url]),
    () => timeOf(process.execPath, [program, 'send', 'GET', '/vessels/1', '--api', 'harbour'], { cwd: folder }),
  );
  server.kill();
  rmSync(folder, { recursive: true });
  note('send of one request, against bare undici', send / bare, 1.5, `${ms(send)} and ${ms(bare)}`);
}

export function measureStart() {
  const folder = writeProject('http://127.0.0.1:9', 200);
  const [bare, version, check] = inTurns(
    41,
    () => timeOf(process.execPath, ['-e', '0']),
    () => timeOf(process.execPath, [program, '--version']),
    () => timeOf(process.execPath, [program, 'check', 'many.chain.yaml'], { cwd: folder }),
  );
  rmSync(folder, { recursive: true });
  note('--version, against node -e 0', version / bare, 1.6, `${ms(version)} and ${ms(bare)}`);
  note('check of 200 steps, against node -e 0', check / bare, 2, `${ms(check)} and ${ms(bare)}`);
}
