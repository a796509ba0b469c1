// A file of 1 GB sent, and one saved: the most memory that the program has at any moment.
import { spawn } from 'node:child_process';
import { createServer } from 'node:http';
import { mkdirSync, closeSync, mkdtempSync, openSync, readFileSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { note } from './measure.mjs';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const SIZE = 1024 ** 3;
const PIECE = Buffer.alloc(1024 * 1024, 'kvitnes ');
/** MiB. */
const MOST = 150;

export async function measureFiles() {
  const server = createServer(async (request, response) => {
    if (request.method === 'PUT') {
      request.on('data', () => {});
      request.on('end', () => response.end());
      return;
    }
    response.writeHead(200, { 'Content-Length': SIZE });
    for (let sent = 0; sent < SIZE; sent += PIECE.length) {
      if (!response.write(PIECE)) await new Promise((resolve) => response.once('drain', resolve));
    }
    response.end();
  });
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const url = `http://127.0.0.1:${server.address().port}`;
  mkdirSync(path.join(folder, 'out'));
  writeFileSync(path.join(folder, 'batharon.yaml'), `apis:\n  yard: { url: "${url}" }\n`);
  const chain = (name, call) =>
    writeFileSync(path.join(folder, name), `api: yard\nsteps:\n  - call: file\n    ${call.join('\n    ')}\n`);
  chain('send.chain.yaml', ['request: PUT /big', 'file: big.bin']);
  chain('save.chain.yaml', ['request: GET /big', 'save: out/big.bin']);
  const told = path.join(folder, 'memory.cjs');
  writeFileSync(
    told,
    "process.on('exit', () => require('fs').writeFileSync('memory', String(process.resourceUsage().maxRSS)));",
  );
  const big = openSync(path.join(folder, 'big.bin'), 'w');
  for (let written = 0; written < SIZE; written += PIECE.length) writeSync(big, PIECE);
  closeSync(big);
  try {
    for (const [what, file] of [
      ['sent', 'send'],
      ['saved', 'save'],
    ]) {
      const megabytes = await peakOf(folder, told, `${file}.chain.yaml`);
      note(`peak memory, a file of 1 GB ${what}`, megabytes / MOST, 1, `${Math.round(megabytes)} MiB of ${MOST}`);
    }
  } finally {
    server.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function peakOf(folder, told, file) {
  const child = spawn(process.execPath, ['-r', told, path.join(root, 'dist/batharon.cjs'), 'run', file], {
    cwd: folder,
    stdio: 'ignore',
  });
  const status = await new Promise((resolve) => child.on('close', resolve));
  if (status !== 0) throw new Error(`${file} ended with ${status}`);
  return Number(readFileSync(path.join(folder, 'memory'), 'utf8')) / 1024;
}
