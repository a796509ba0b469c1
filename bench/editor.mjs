// What an editor waits for in a file of 500 steps: completion, and problems after the last key, at the 95th percentile of 1,000
// edits, against a whole `check` of the same file. Then pictures: one of 60 steps, and the report of 100,000 calls in Chromium.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { chromium } from 'playwright-core';
import { createMessageConnection, StreamMessageReader, StreamMessageWriter } from 'vscode-jsonrpc/node';
import { inTurns, median, ms, note, timeOf } from './measure.mjs';
import { program } from './project.mjs';

const STEPS = 500;
const EDITS = Number(process.env.EDITS ?? 1000);
const PICTURED = 60;
const REPORTED = Number(process.env.REPORTED ?? 100_000);

const step = (i) => `
  - call: berth-${i + 1}
    request: GET /berths/{vessel_${i}}
    query: { day: '{day}' }
    expect:
      - status == 200
      - $.berth.depth >= 5
    keep:
      vessel_${i + 1}: $.next.vessel
`;

const chain = (steps) =>
  `name: long\napi: harbour\ninputs:\n  day: { type: date, default: '2026-05-23' }\n  vessel_0: { type: string, default: KM 1 }\nsteps:${Array.from({ length: steps }, (_, i) => step(i)).join('')}\noutputs: [vessel_${steps}]\n`;

function writeFolder(steps) {
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  mkdirSync(path.join(folder, 'chains'));
  writeFileSync(path.join(folder, 'batharon.yaml'), 'apis:\n  harbour:\n    url: http://127.0.0.1:9\n');
  writeFileSync(path.join(folder, 'chains/long.chain.yaml'), chain(steps));
  return folder;
}

/** Types a name letter by letter in the middle of a long file, and asks after each letter what may follow. */
async function typing(folder) {
  const child = spawn(process.execPath, [program, 'language-server'], { cwd: folder });
  const connection = createMessageConnection(
    new StreamMessageReader(child.stdout),
    new StreamMessageWriter(child.stdin),
  );
  let seen = () => {};
  connection.onNotification('textDocument/publishDiagnostics', (published) => seen(published));
  connection.listen();
  await connection.sendRequest('initialize', { processId: null, rootUri: null, capabilities: {} });
  await connection.sendNotification('initialized', {});
  const uri = pathToFileURL(path.join(folder, 'chains/long.chain.yaml')).href;
  const text = chain(STEPS);
  const lines = text.split('\n');
  const line = lines.findIndex((each) => each.includes(`{vessel_${STEPS / 2}}`));
  const start = lines[line].indexOf('vessel_');
  const checked = (version) =>
    new Promise(
      (resolve) => (seen = (published) => published.uri === uri && published.version === version && resolve()),
    );
  const first = checked(1);
  await connection.sendNotification('textDocument/didOpen', {
    textDocument: { uri, languageId: 'yaml', version: 1, text },
  });
  await first;
  const [completions, diagnostics] = [[], []];
  const word = `vessel_${STEPS / 2}`;
  let written = word.length;
  for (let i = 0; i < EDITS; i++) {
    const next = (i % word.length) + 1;
    const range = { start: { line, character: start }, end: { line, character: start + written } };
    const textDocument = { uri, version: i + 2 };
    const done = i % 4 === 0 ? checked(i + 2) : undefined;
    const from = performance.now();
    void connection.sendNotification('textDocument/didChange', {
      textDocument,
      contentChanges: [{ range, text: word.slice(0, next) }],
    });
    written = next;
    const position = { line, character: start + next };
    await connection.sendRequest('textDocument/completion', { textDocument: { uri }, position });
    completions.push(performance.now() - from);
    if (!done) continue;
    const asked = performance.now();
    await done;
    // Counted from the last key, which was before the completion.
    diagnostics.push(performance.now() - from - (asked - from - completions.at(-1)));
  }
  await connection.sendRequest('shutdown');
  await connection.sendNotification('exit');
  await once(child, 'exit');
  connection.dispose();
  return { completion: percentile95(completions), diagnosis: percentile95(diagnostics) };
}

function percentile95(values) {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length * 0.95)];
}

export async function measureEditor() {
  const folder = writeFolder(STEPS);
  const [check] = inTurns(5, () =>
    timeOf(process.execPath, [program, 'check', 'chains/long.chain.yaml'], { cwd: folder }),
  );
  const { completion, diagnosis } = await typing(folder);
  rmSync(folder, { recursive: true });
  const times = (own) => `${own.toFixed(1)} ms and ${ms(check)}`;
  note(
    `completion in ${STEPS} steps, 95 % of ${EDITS} edits, against check`,
    completion / check,
    0.06,
    times(completion),
  );
  note('problems after the last key, against check', diagnosis / check, 0.35, times(diagnosis));
}

/** Serves short answers, a few of them errors. */
async function openServer() {
  let count = 0;
  const server = createServer((_request, response) => {
    response.statusCode = ++count % 700 === 0 ? 500 : 200;
    response
      .setHeader('Content-Type', 'application/json')
      .end(JSON.stringify({ draught: (count % 100) / 10, note: 'moored '.repeat(30) }));
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  return server;
}

export async function measurePictures() {
  const folder = writeFolder(PICTURED);
  const [drawn, start] = inTurns(
    9,
    () => timeOf(process.execPath, [program, 'draw', 'chains/long.chain.yaml', 'long.svg'], { cwd: folder }),
    () => timeOf(process.execPath, [program, '--version'], { cwd: folder }),
  );
  note(
    `a picture of ${PICTURED} steps beyond a start, of 300 ms`,
    (drawn - start) / 300,
    1,
    `${ms(drawn)} and ${ms(start)}`,
  );
  const server = await openServer();
  writeFileSync(
    path.join(folder, 'batharon.yaml'),
    `apis:\n  harbour:\n    url: http://127.0.0.1:${server.address().port}\n`,
  );
  writeFileSync(
    path.join(folder, 'chains/many.chain.yaml'),
    `api: harbour\nsteps:\n  - each: n in range(${REPORTED})\n    concurrency: 16\n    on-failure: continue\n    steps:\n      - call: vessel\n        request: GET /vessels/{n}\n        expect: [$.draught < 9.8]\n`,
  );
  const run = spawn(process.execPath, [program, 'run', 'chains/many.chain.yaml', '--quiet'], {
    cwd: folder,
    stdio: 'ignore',
  });
  await once(run, 'exit');
  server.close();
  timeOf(process.execPath, [program, 'report', 'html=many.html'], { cwd: folder });
  const file = path.join(folder, 'many.html');
  const megabytes = statSync(file).size / 1e6;
  note(`the report of ${REPORTED.toLocaleString('en')} calls, of 5 MB`, megabytes / 5, 1, `${megabytes.toFixed(2)} MB`);
  const time = await drawnIn(file);
  note('the same drawn by Chromium, of 2 s', time / 2000, 1, ms(time));
  if (!readFileSync(file, 'utf8').includes('<article')) throw new Error('The report says nothing of what failed');
  rmSync(folder, { recursive: true });
}

async function drawnIn(file) {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  const times = [];
  for (let i = 0; i < 5; i++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const from = performance.now();
    await page.goto(pathToFileURL(file).href);
    await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))));
    times.push(performance.now() - from);
    await page.close();
  }
  await browser.close();
  return median(times);
}
