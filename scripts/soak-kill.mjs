// A run of 300 calls (a loop at once 8, POSTs, a table) is killed with SIGKILL at many random moments and gone on with until
// it ends. What the server saw and what the run leaves is then compared with an unbroken run. KILLS sets how many (200).
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const program = path.join(root, 'dist/batharon.cjs');
const { openJournal } = createRequire(import.meta.url)(path.join(root, 'dist/index.cjs'));
const KILLS = Number(process.env.KILLS ?? 200);
const ITEMS = 100;
const CHAIN = `name: c
api: a
steps:
  - each: n in range(${ITEMS})
    concurrency: 8
    steps:
      - { call: make, request: "POST /make/{n}", idempotency-key: true, json: { n: "{n}" }, keep: { id: $.id } }
      - { call: read, request: "GET /read/{n}" }
      - { call: close, request: "POST /close/{n}", idempotency-key: true }
      - { write: out.csv, row: { n: "{n}", id: "{id}" }, update-by: n }
    gather: { ids: "{id}" }
outputs: [ids]
`;

let keys = new Map();
const server = createServer((request, response) => {
  request.resume().on('end', () => {
    const key = request.headers['idempotency-key'];
    if (key) keys.set(request.url, [...(keys.get(request.url) ?? []), key]);
    setTimeout(
      () => response.setHeader('Content-Type', 'application/json').end(JSON.stringify({ id: request.url })),
      4,
    );
  });
}).listen(0, '127.0.0.1');
await sleep(100);
const url = `http://127.0.0.1:${server.address().port}`;

/** A project of its own; how its run ends when it is killed at the moments that `next` gives. */
async function ends(next) {
  keys = new Map();
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-soak-'));
  writeFileSync(path.join(folder, 'batharon.yaml'), `apis: { a: { url: "${url}", concurrency: 8 } }\n`);
  writeFileSync(path.join(folder, 'c.chain.yaml'), CHAIN);
  let kills = 0;
  for (let isBegun = false; ;) {
    const args = [...(isBegun ? ['resume'] : ['run', 'c.chain.yaml']), '--out', 'outputs.json', '--no-prompt'];
    const child = spawn(process.execPath, [program, ...args], { cwd: folder, stdio: 'ignore' });
    const moment = next();
    const killer = moment === undefined ? undefined : setTimeout(() => child.kill('SIGKILL'), moment);
    const status = await new Promise((resolve) => child.on('exit', (code) => resolve(code)));
    clearTimeout(killer);
    if (status === 0) break;
    if (status !== null) throw new Error(`It ended with ${status}, in ${folder}`);
    kills++;
    isBegun = isBegun || readdirSync(folder).includes('.batharon');
  }
  const events = openJournal(folder, runIn(folder)).events;
  const told = {
    kills,
    outputs: readFileSync(path.join(folder, 'outputs.json'), 'utf8'),
    rows: readFileSync(path.join(folder, 'out.csv'), 'utf8').split('\n').sort().join('\n'),
    answeredTwice: twice(events),
    otherKeys: [...keys.values()].filter((each) => new Set(each).size > 1).length,
  };
  rmSync(folder, { recursive: true, force: true });
  return told;
}

function runIn(folder) {
  return readdirSync(path.join(folder, '.batharon/runs'))[0];
}

/** POSTs that were sent again although their answer was recorded. */
function twice(events) {
  const answered = new Set(events.filter(({ type }) => type === 'answered').map(({ x }) => x));
  const done = new Map();
  for (const event of events) {
    if (event.type === 'sent' && event.request.method === 'POST' && answered.has(event.x))
      done.set(event.key, (done.get(event.key) ?? 0) + 1);
  }
  return [...done.values()].filter((count) => count > 1).length;
}

const whole = await ends(() => undefined);
let killed = 0;
for (let left = KILLS; left > 0;) {
  let here = Math.min(left, 12);
  const told = await ends(() => (here-- > 0 ? 150 + Math.random() * 350 : undefined));
  killed += told.kills;
  left -= Math.max(1, told.kills);
  const isSame = told.outputs === whole.outputs && told.rows === whole.rows;
  if (!isSame || told.answeredTwice > 0 || told.otherKeys > 0) {
    console.log('not the same as an unbroken run:', { ...told, outputs: undefined, rows: undefined, isSame });
    process.exitCode = 1;
    break;
  }
}
console.log(`killed ${killed} times; every run ended as an unbroken one`);
server.close();
