// A long table through one call each, at the harbour over loopback; a table that is only gone over; what the view costs.
import { spawn } from 'node:child_process';
import {
  createWriteStream,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { loadCore } from './core.mjs';
import { ms, note, timeOf } from './measure.mjs';
import { program } from './project.mjs';
import { watched } from './watched.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));
const ROWS = Number(process.env.ROWS ?? 100_000);
const WALKED = Number(process.env.WALKED ?? 1_000_000);
const CONCURRENCY = 16;

const CALLS = `
name: rows
api: watch
inputs: { rows: { type: table, columns: { number: integer } } }
steps:
  - each: row in rows
    concurrency: ${CONCURRENCY}
    steps:
      - call: level
        request: GET /water?row={row.number}
        expect: [$.level_cm == 142]
`;
const WALK = `
name: walk
inputs: { rows: { type: table, columns: { number: integer, length: number } } }
steps:
  - each: row in rows
    gather: { numbers: '{row.number}' }
`;

async function openHarbour(folder) {
  const args = [program, 'demo', '--serve', '--dir', folder, '--port', '0'];
  const harbour = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
  const url = await new Promise((resolve) => {
    let said = '';
    harbour.stdout.on('data', (data) => {
      const found = /running at (\S+?),/.exec((said += data));
      if (found) resolve(found[1]);
    });
  });
  const key = /HARBOUR_KEY=(.*)/.exec(readFileSync(path.join(folder, 'secrets.env'), 'utf8'))[1];
  return { harbour, url, key };
}

async function writeTable(file, rows, line) {
  const stream = createWriteStream(file);
  stream.write('number,id,name,length,remark\n');
  for (let i = 0; i < rows; i++)
    if (!stream.write(line(i))) await new Promise((resolve) => stream.once('drain', resolve));
  await new Promise((resolve) => stream.end(resolve));
}

const remark = `"stays at the outer quay until the tide turns; ${'x'.repeat(110)}"`;

export async function measureRows() {
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const { harbour, url, key } = await openHarbour(path.join(folder, 'harbour'));
  const auth = `auth: { api-key: { header: Harbour-Key, value: '{secret.HARBOUR_KEY}' } }`;
  writeFileSync(
    path.join(folder, 'batharon.yaml'),
    `apis:\n  watch:\n    url: ${url}/watch\n    concurrency: ${CONCURRENCY}\n    ${auth}\n`,
  );
  writeFileSync(path.join(folder, 'rows.chain.yaml'), CALLS);
  writeFileSync(path.join(folder, 'walk.chain.yaml'), WALK);
  await writeTable(path.join(folder, 'rows.csv'), ROWS, (i) => `${i},KM ${i}/4,Grafjord,${i % 300},\n`);
  const options = { cwd: folder, env: { ...process.env, HARBOUR_KEY: key } };
  const args = [program, 'run', 'rows.chain.yaml', '--input', 'rows=@rows.csv'];
  const bareArgs = [path.join(here, 'bare-rows.mjs'), `${url}/watch/water`, key, String(ROWS), String(CONCURRENCY)];
  const before = timeOf(process.execPath, bareArgs);
  const run = await watched(args, options);
  const bare = (before + timeOf(process.execPath, bareArgs)) / 2;
  note(`${ROWS} rows, one call each, against bare undici`, run.took / bare, 1.4, `${ms(run.took)} and ${ms(bare)}`);
  note('   memory at its peak, of 130 MiB', run.peak / 130, 1, `${run.peak.toFixed(0)} MiB`);
  note('   memory in the last tenth, of the first', run.growth, 1.05, '');
  measureSize(folder);
  await measureView(folder, run.took);
  await measureReports(options);
  await measureResume(folder, options);
  harbour.kill();
  await measureWalk(folder, options);
  rmSync(folder, { recursive: true });
}

/** What a call adds to the journal. */
function measureSize(folder) {
  const [run] = readdirSync(path.join(folder, '.batharon/runs'));
  const size = statSync(path.join(folder, '.batharon/runs', run, 'journal.ndjson')).size / ROWS;
  note('   journal of a call, of 600 bytes', size / 600, 1, `${size.toFixed(0)} bytes`);
}

/** Every form of report of that run: at most 10 s and 300 MiB. */
async function measureReports(options) {
  const kinds = ['html', 'junit', 'tap', 'har', 'csv', 'json', 'markdown'];
  const seen = [];
  for (const kind of kinds)
    seen.push({ kind, ...(await watched([program, 'report', `${kind}=report.${kind}`], options)) });
  const slowest = seen.reduce((most, each) => (each.took > most.took ? each : most));
  const largest = seen.reduce((most, each) => (each.peak > most.peak ? each : most));
  note('   the slowest report of it, of 10 s', slowest.took / 10_000, 1, `${slowest.kind} ${ms(slowest.took)}`);
  note('   the largest in memory, of 300 MiB', largest.peak / 300, 1, `${largest.kind} ${largest.peak.toFixed(0)} MiB`);
}

/** The same run as if it had been killed half-way: what resuming it holds in memory. */
async function measureResume(folder, options) {
  const [run] = readdirSync(path.join(folder, '.batharon/runs'));
  const journal = path.join(folder, '.batharon/runs', run, 'journal.ndjson');
  truncateSync(journal, Math.floor(statSync(journal).size / 2));
  const resumed = await watched([program, 'resume'], options);
  note('   resuming half of it, of 300 MiB', resumed.peak / 300, 1, `${resumed.peak.toFixed(0)} MiB`);
}

/** The events of the run again, shown as on a terminal: what that takes of the time of the run. */
async function measureView(folder, took) {
  const { RunView, paletteOf, LineReader, FORM } = await loadCore();
  const [run] = readdirSync(path.join(folder, '.batharon/runs'));
  const reader = new LineReader();
  const events = readFileSync(path.join(folder, '.batharon/runs', run, 'journal.ndjson'), 'utf8')
    .trim()
    .split('\n')
    .map((line) => reader.read(line))
    .filter((event) => event !== FORM);
  let written = 0;
  const write = (text) => void (written += text.length);
  const columns = {
    columns: () => 100,
    widths: { nameWidth: 12, numberWidth: 8 },
    namedRun: undefined,
    beforeWriting: () => {},
    nowMs: Date.now,
  };
  const view = new RunView({ write, palette: paletteOf(true), quiet: false, verbose: false, moves: true, ...columns });
  const started = performance.now();
  for (const event of events) view.listen(event);
  const shown = performance.now() - started;
  note('   the live view, of the time of the run', shown / took, 0.02, `${ms(shown)}, ${written} characters`);
}

async function measureWalk(folder, options) {
  await writeTable(path.join(folder, 'long.csv'), WALKED, (i) => `${i},KM ${i}/4,Grafjord,${i % 300}.5,${remark}\n`);
  const bareArgs = [path.join(here, 'bare-csv.mjs'), path.join(folder, 'long.csv')];
  const before = timeOf(process.execPath, bareArgs);
  const { took, peak } = await watched([program, 'run', 'walk.chain.yaml', '--input', 'rows=@long.csv'], options);
  const alone = (before + timeOf(process.execPath, bareArgs)) / 2;
  note(`${WALKED} rows gone over, against csv-parse alone`, took / alone, 1.4, `${ms(took)} and ${ms(alone)}`);
  note('   memory at its peak, of 120 MiB', peak / 120, 1, `${peak.toFixed(0)} MiB`);
}
