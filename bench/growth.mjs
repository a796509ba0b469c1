// Whether what a user has more of costs more than its number: each thing at three sizes, less what an empty one takes.
import { spawn } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { program, writeProject } from './project.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));
/** The largest size is so many times the smallest; the time may grow a tenth more than that. */
const FACTOR = 4;
const BAR = 1.1;
/** Milliseconds below which nothing can be told from the noise of a process. */
const NOISE = 25;

const lines = (count, line) => Array.from({ length: count }, (_, i) => line(i)).join('');

/** What grows: its name, sizes that take long enough to be measured, and the work for one of them. */
const GROWING = [
  {
    name: 'calls in order',
    size: 1000,
    make: (at, count, url) => {
      const made = writeProject(url, count);
      cpSync(made, at, { recursive: true });
      rmSync(made, { recursive: true });
    },
    args: ['run', 'many.chain.yaml'],
  },
  {
    name: 'items in a loop',
    size: 1000,
    make: (at, count, url) =>
      project(
        at,
        url,
        `steps:\n  - let: { items: "range(1, ${count})" }\n  - each: item in items\n    steps:\n      - call: vessel\n        request: GET /vessels/{item}\n        expect: [$.number == item]\n`,
      ),
    args: ['run', 'grow.chain.yaml'],
  },
  {
    name: 'rows of a table',
    size: 100_000,
    make: (at, count, url) => {
      project(
        at,
        url,
        "inputs: { rows: { type: table, columns: { number: integer } } }\nsteps:\n  - each: row in rows\n    gather: { numbers: '{row.number}' }\n",
      );
      writeFileSync(path.join(at, 'rows.csv'), `number\n${lines(count, (i) => `${i}\n`)}`);
    },
    args: ['run', 'grow.chain.yaml', '--input', 'rows=rows.csv'],
  },
  {
    name: 'steps in a file',
    size: 1000,
    make: (at, count, url) =>
      project(at, url, `steps:\n${lines(count, (i) => `  - call: c${i}\n    request: GET /vessels/${i}\n`)}`),
    args: ['check', 'grow.chain.yaml'],
  },
  {
    name: 'names in scope',
    size: 1000,
    make: (at, count, url) =>
      project(
        at,
        url,
        `steps:\n  - let:\n${lines(count, (i) => `      n${i}: ${i === 0 ? '1' : `n${i - 1} + 1`}\n`)}  - say: "{n${count - 1}}"\n`,
      ),
    args: ['run', 'grow.chain.yaml'],
  },
  {
    name: 'chains in a folder',
    size: 100,
    make: (at, count, url) => {
      project(at, url, 'steps:\n  - call: a\n    request: GET /vessels/1\n');
      for (let i = 0; i < count; i++)
        writeFileSync(
          path.join(at, `c${i}.chain.yaml`),
          `api: harbour\nsteps:\n${lines(10, (k) => `  - call: c${k}\n    request: GET /vessels/${k}\n    expect: [$.number == ${k}]\n`)}`,
        );
    },
    args: ['check'],
  },
  {
    name: 'runs in a project',
    size: 3000,
    make: (at, count, url) => {
      project(at, url, 'steps:\n  - call: a\n    request: GET /vessels/1\n');
      timeOf(process.execPath, [program, 'run', 'grow.chain.yaml'], { cwd: at });
      const runs = path.join(at, '.batharon/runs');
      const [first] = readdirSync(runs).filter((name) => /^\d/.test(name));
      const journal = readFileSync(path.join(runs, first, 'journal.ndjson'));
      for (let i = 0; i < count; i++) {
        const run = path.join(runs, `0101-0000-${i.toString(36).padStart(3, '0')}`);
        mkdirSync(run);
        writeFileSync(path.join(run, 'journal.ndjson'), journal);
      }
    },
    args: ['runs'],
  },
  {
    name: 'expectations in a call',
    size: 4000,
    make: (at, count, url) =>
      project(
        at,
        url,
        `steps:\n  - call: a\n    request: GET /vessels/1\n    expect:\n${lines(count, (i) => `      - $.number < ${i + 2}\n`)}`,
      ),
    args: ['run', 'grow.chain.yaml'],
  },
];

function project(at, url, chain) {
  mkdirSync(at, { recursive: true });
  writeFileSync(path.join(at, 'batharon.yaml'), `apis:\n  harbour:\n    url: ${url}\n`);
  writeFileSync(path.join(at, 'grow.chain.yaml'), `name: grow\napi: harbour\n${chain}`);
}

export async function measureGrowth() {
  const server = spawn(process.execPath, [path.join(here, 'server.mjs')], { stdio: ['ignore', 'pipe', 'inherit'] });
  const port = await new Promise((resolve) => server.stdout.once('data', (data) => resolve(String(data).trim())));
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  for (const { name, size, make, args } of GROWING) {
    const sizes = [1, size, size * 2, size * FACTOR];
    const places = sizes.map((count) => path.join(folder, `${name.replace(/ /g, '-')}-${count}`));
    places.forEach((at, i) => make(at, sizes[i], `http://127.0.0.1:${port}`));
    const [empty, ...times] = inTurns(
      5,
      ...places.map((cwd) => () => timeOf(process.execPath, [program, ...args], { cwd })),
    );
    const [one, two, four] = times.map((time) => Math.max(NOISE, time - empty));
    const detail = `${sizes.slice(1).join(', ')}: ${[one, two, four].map(ms).join(', ')}`;
    note(`growth: ${name}`, four / one / FACTOR, BAR, detail);
    for (const at of places) rmSync(at, { recursive: true });
  }
  server.kill();
  rmSync(folder, { recursive: true });
}
