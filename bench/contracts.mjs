// API descriptions of ten megabytes and a thousand operations, against reading the file alone, and against the compiled schema alone.
import { build } from 'esbuild';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { dump } from 'js-yaml';
import { loadCore } from './core.mjs';
import { inTurns, median, ms, note, timeOf } from './measure.mjs';
import { program } from './project.mjs';

const OPERATIONS = 1000;
const CHAINS = 20;
const WORDS = 'vessel berth tide quay pilot mooring cargo manifest draught clearance harbour signal ledger'.split(' ');

/** Numbers from a seed (mulberry32), so that each run measures the same. */
function randomFrom(seed) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** A description with references, alternatives and long texts, as large APIs have them. */
export function description(operations, seed = 7) {
  const random = randomFrom(seed);
  const pick = (from) => from[Math.floor(random() * from.length)];
  const text = (words) => Array.from({ length: words }, () => pick(WORDS)).join(' ');
  const schemas = {};
  const names = Array.from({ length: operations }, (_, i) => `Thing${i}`);
  for (const [i, name] of names.entries()) {
    const properties = { id: { type: 'string', description: text(20) }, kind: { type: 'string', enum: WORDS } };
    for (let k = 0; k < 12; k++)
      properties[`${pick(WORDS)}_${k}`] =
        k % 4 === 0 && i > 3
          ? { $ref: `#/components/schemas/${names[Math.floor(random() * 3)]}` }
          : { type: pick(['string', 'number', 'integer', 'boolean']), description: text(60) };
    schemas[name] = { type: 'object', required: ['id', 'kind'], description: text(80), properties };
    if (i % 10 === 9)
      schemas[`${name}Any`] = {
        oneOf: [{ $ref: `#/components/schemas/${name}` }, { $ref: `#/components/schemas/${names[i - 1]}` }],
      };
  }
  const paths = {};
  for (let i = 0; i < operations; i++) {
    const schema = { $ref: `#/components/schemas/${i % 10 === 9 ? `${names[i]}Any` : names[i]}` };
    const item = (paths[`/things${Math.floor(i / 2)}${i % 2 ? '/{id}' : ''}`] ??= {});
    item.get = {
      operationId: `getThing${i}`,
      summary: text(8),
      description: text(250),
      tags: [pick(WORDS)],
      parameters: [
        ...(i % 2 ? [{ name: 'id', in: 'path', required: true, schema: { type: 'string' } }] : []),
        ...Array.from({ length: 6 }, (_, k) => ({
          name: `${pick(WORDS)}_${k}`,
          in: 'query',
          description: text(40),
          schema: { type: 'integer', minimum: 0 },
        })),
      ],
      responses: {
        200: { description: text(30), content: { 'application/json': { schema: { type: 'array', items: schema } } } },
        404: { description: text(30) },
      },
    };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Things', version: '1' },
    servers: [{ url: 'http://127.0.0.1:9/v1' }],
    paths,
    components: { schemas },
  };
}

function chain(number) {
  const steps = Array.from({ length: 10 }, (_, i) => {
    const n = (number * 31 + i * 7) % (OPERATIONS / 2);
    return `  - call: c${i}\n    request: GET /things${n}\n    keep: { v${i}: "$[0].id" }\n`;
  });
  return `name: chain ${number}\napi: things\nsteps:\n${steps.join('')}`;
}

function project(at, file, text) {
  mkdirSync(path.join(at, 'chains'), { recursive: true });
  writeFileSync(path.join(at, file), text);
  writeFileSync(
    path.join(at, 'batharon.yaml'),
    `apis:\n  things:\n    url: http://127.0.0.1:9/v1\n    contract: ${file}\n`,
  );
  for (let i = 0; i < CHAINS; i++) writeFileSync(path.join(at, `chains/c${i}.chain.yaml`), chain(i));
}

/** A program that reads a file and does nothing else with it. */
async function reader(folder, how) {
  const file = path.join(folder, 'reader.cjs');
  const contents = `import { readFileSync } from 'node:fs';\n${how}\nif (!Object.keys(read(readFileSync(process.argv[2], 'utf8')).paths).length) process.exitCode = 1;`;
  const resolveDir = path.dirname(path.dirname(program));
  await build({ stdin: { contents, resolveDir }, outfile: file, bundle: true, platform: 'node', format: 'cjs' });
  return file;
}

const FORMS = [
  ['JSON', 'api.json', (value) => JSON.stringify(value), 'const read = JSON.parse;', 9],
  [
    'YAML',
    'api.yaml',
    (value) => dump(value, { noRefs: true, lineWidth: 160 }),
    "import { load, CORE_SCHEMA } from 'js-yaml';\nconst read = (text) => load(text, { schema: CORE_SCHEMA, json: true });",
    5,
  ],
];

export async function measureContracts() {
  for (const [form, file, write, how, rounds] of FORMS) {
    const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
    const [large, small] = [path.join(folder, 'large'), path.join(folder, 'small')];
    const text = write(description(OPERATIONS));
    project(large, file, text);
    project(small, file, '');
    const tiny = path.join(folder, file);
    writeFileSync(tiny, write(description(2)));
    const floorOf = await reader(folder, how);
    const list = (at) => () => timeOf(process.execPath, [program, 'draft', at, '--list'], { cwd: folder });
    const bare = (at) => () => timeOf(process.execPath, [floorOf, at]);
    const [ours, start, read, readStart] = inTurns(
      rounds,
      list(path.join('large', file)),
      list(file),
      bare(path.join(large, file)),
      bare(tiny),
    );
    const floor = read - readStart;
    const size = `${(text.length / 1e6).toFixed(1)} MB of ${form}`;
    note(`--list of ${size}, against reading it`, (ours - start) / floor, 1.5, `${ms(ours - start)} and ${ms(floor)}`);
    writeFileSync(path.join(small, 'batharon.yaml'), 'apis:\n  things:\n    url: http://127.0.0.1:9/v1\n');
    const check = (cwd) => () => timeOf(process.execPath, [program, 'check'], { cwd });
    const [held, plain] = inTurns(rounds, check(large), check(small));
    note(
      `check of ${CHAINS} chains against ${size}, against reading it`,
      (held - plain) / floor,
      2,
      `${ms(held - plain)} and ${ms(floor)}`,
    );
    rmSync(folder, { recursive: true });
  }
  await measureJudging();
}

/** A response by its description, against its compiled schema alone. */
async function measureJudging() {
  const { Contract, readDescription, departuresOf, closedSchema, createValidator } = await loadCore();
  const bytes = new TextEncoder().encode(JSON.stringify(description(OPERATIONS)));
  const read = readDescription('api.json', () => ({ bytes }));
  const contract = new Contract(read.description);
  const operation = contract.description.operations[8];
  const { schema } = operation.responses[0].content[0];
  const closed = closedSchema(schema, contract.description.documents, 'response', false);
  const validate = createValidator({ allErrors: true, strict: false, ownProperties: true }).compile(closed.schema);
  const json = Array.from({ length: 500 }, (_, i) => ({ id: `t-${i}`, kind: 'quay' }));
  const answer = { status: 200, headers: [['content-type', 'application/json']], hasBody: true, json };
  const times = { ours: [], floor: [] };
  const timed = (into, work) => {
    const started = performance.now();
    for (let i = 0; i < 200; i++) work();
    into.push(performance.now() - started);
  };
  for (let round = 0; round < 15; round++) {
    timed(times.ours, () => departuresOf(contract, operation, answer));
    timed(times.floor, () => validate(json));
  }
  const [ours, floor] = [median(times.ours), median(times.floor)];
  note('a response judged, against its schema alone', ours / floor, 1.2, `${ms(ours)} and ${ms(floor)} for 200`);
}
