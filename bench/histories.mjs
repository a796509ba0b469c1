// Records of very many calls: going on from one, and reporting it. The record is that of a short run, told again for each row.
import { build } from 'esbuild';
import { spawn } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, readFileSync, readdirSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { ms, note, timeOf } from './measure.mjs';
import { program } from './project.mjs';
import { watched } from './watched.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));
const CALLS = Number(process.env.HISTORY ?? 1_000_000);
const KINDS = ['html', 'junit', 'tap', 'har', 'csv', 'json', 'markdown'];

/** The same request for each row, so that the record of one is that of any other but for its number. */
const CHAIN = `name: rows
api: harbour
inputs: { rows: { type: table, columns: { number: integer } } }
steps:
  - each: row in rows
    identified-by: row.number
    steps:
      - call: level
        request: GET /vessels/1
        expect: [$.number == 1]
`;

async function loadLines(folder) {
  const outfile = path.join(folder, 'lines.mjs');
  const contents = `
    export { LineWriter } from './src/core/journal/line-writer.ts';
    export { LineReader, FORM } from './src/core/journal/line-reader.ts';`;
  const stdin = { contents, resolveDir: path.resolve(here, '..') };
  await build({ stdin, outfile, bundle: true, format: 'esm', platform: 'node', logLevel: 'error' });
  return import(pathToFileURL(outfile).href);
}

function writeChain(folder, url, rows) {
  writeFileSync(path.join(folder, 'batharon.yaml'), `apis:\n  harbour:\n    url: ${url}\n`);
  writeFileSync(path.join(folder, 'rows.chain.yaml'), CHAIN);
  writeFileSync(path.join(folder, 'rows.csv'), `number\n${Array.from({ length: rows }, (_, i) => `${i}\n`).join('')}`);
}

/** A run that is stopped after some calls; its journal. */
async function stoppedRun(folder, input) {
  const args = [program, 'run', 'rows.chain.yaml', '--input', `rows=@${input}`];
  const child = spawn(process.execPath, args, { cwd: folder, stdio: 'ignore' });
  const runs = path.join(folder, '.batharon/runs');
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, 20));
    try {
      const journal = path.join(runs, readdirSync(runs)[0], 'journal.ndjson');
      if (readFileSync(journal, 'utf8').includes('"type":"ended"')) {
        child.kill('SIGINT');
        await new Promise((resolve) => child.once('exit', resolve));
        return journal;
      }
    } catch {
      // It has not begun yet.
    }
  }
}

/** The record of a run that was killed before its last call. */
async function writeHistory(folder, calls, { LineWriter, LineReader, FORM }) {
  const journal = await stoppedRun(folder, 'rows.csv');
  const reader = new LineReader();
  const lines = readFileSync(journal, 'utf8').trim().split('\n');
  const events = lines.map((line) => reader.read(line)).filter((event) => event !== FORM);
  const first = events.findIndex(({ type }) => type === 'sent');
  const [sent, answered, ended] = ['sent', 'answered', 'ended'].map((type) =>
    events.find((each) => each.type === type),
  );
  const writer = new LineWriter();
  const file = openSync(journal, 'w');
  let [seq, text] = [0, ''];
  const add = ({ at, ...event }) => {
    const body = { ...event };
    delete body.seq;
    seq++;
    const row = writer.row(body, seq, at);
    for (const line of row === undefined ? writer.lines(body, seq, at) : [row]) text += `${line}\n`;
    if (text.length > 1e6) {
      writeSync(file, text);
      text = '';
    }
  };
  events.slice(0, first).forEach(add);
  for (let i = 0; i < calls - 1; i++) {
    const [x, at] = [i + 1, sent.at + i];
    const place = { step: `1#${x}.1/level`, key: `each:row{${i}}/level` };
    add({ ...sent, at, x, ...place });
    add({ ...answered, at, x });
    add({ ...ended, at, x: [x], ...place });
  }
  writeSync(file, text);
  closeSync(file);
  return journal;
}

export async function measureHistories() {
  const server = spawn(process.execPath, [path.join(here, 'server.mjs')], { stdio: ['ignore', 'pipe', 'inherit'] });
  const port = await new Promise((resolve) => server.stdout.once('data', (data) => resolve(String(data).trim())));
  const root = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const tools = await loadLines(root);
  const took = {};
  for (const calls of [CALLS / 10, CALLS]) {
    const folder = mkdtempSync(path.join(root, 'of-'));
    writeChain(folder, `http://127.0.0.1:${port}`, calls);
    const journal = await writeHistory(folder, calls, tools);
    took[calls] = await reportsOf(folder);
    if (calls === CALLS) await measureResume(folder, journal);
  }
  for (const kind of KINDS) {
    const [few, many] = [CALLS / 10, CALLS].map((calls) => took[calls][kind]);
    const detail = `${ms(few.took)} and ${ms(many.took)}`;
    note(`growth: ${kind} of ${CALLS / 10} calls to ${CALLS}`, many.took / few.took / 10, 1.1, detail);
  }
  const peaks = KINDS.map((kind) => [took[CALLS][kind].peak, kind]).sort(([a], [b]) => b - a);
  note(
    `reports of ${CALLS} calls: the largest, of 300 MiB`,
    peaks[0][0] / 300,
    1,
    `${peaks[0][1]} ${peaks[0][0].toFixed(0)} MiB`,
  );
  await measureRehearsal(root, `http://127.0.0.1:${port}`);
  server.kill();
  rmSync(root, { recursive: true });
}

async function reportsOf(cwd) {
  const seen = {};
  for (const kind of KINDS) seen[kind] = await watched([program, 'report', `${kind}=report.${kind}`], { cwd });
  return seen;
}

async function measureResume(cwd, journal) {
  const floor = [0, 1, 2].map(() => timeOf(process.execPath, [path.join(here, 'bare-lines.mjs'), journal])).sort()[1];
  const { took, peak } = await watched([program, 'resume'], { cwd });
  const name = `resuming ${CALLS} recorded calls`;
  note(`${name}, against reading their lines`, took / floor, 2, `${ms(took)} and ${ms(floor)}`);
  note(`   memory of it, of 200 MiB`, peak / 200, 1, `${peak.toFixed(0)} MiB`);
}

const REHEARSED = 20_000;

/** What a call takes that is answered from the record, against one that is sent. */
async function measureRehearsal(root, url) {
  const cwd = mkdtempSync(path.join(root, 'rehearsed-'));
  writeChain(cwd, url, REHEARSED);
  const run = await watched([program, 'run', 'rows.chain.yaml', '--input', 'rows=@rows.csv'], { cwd });
  const rehearsed = await watched([program, 'rehearse', 'rows.chain.yaml'], { cwd });
  note(
    `rehearse of ${REHEARSED} calls, against sending them`,
    rehearsed.took / run.took,
    0.5,
    `${ms(rehearsed.took)} and ${ms(run.took)}`,
  );
}
