import { sourceOf } from '../../src/core/report/run-source.ts';
import fc from 'fast-check';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { endsOfRun, readRun } from '../../src/adapters/journal-reader.ts';
import { CallRecords } from '../../src/core/journal/call-records.ts';
import { boundNames } from '../../src/core/report/bound.ts';
import { compareRuns } from '../../src/core/report/compare.ts';
import { exchangesBack, triesOf } from '../../src/core/report/exchange.ts';
import { reportFormats } from '../../src/core/report/formats/list.ts';
import { summarizeRun } from '../../src/core/report/run-summary.ts';
import { whyProtected } from '../../src/core/value/file-names.ts';
import { chainOf, coreRun } from '../support/engine.ts';

const RUNS = process.env['SOAK'] === undefined ? 150 : Math.ceil(Number(process.env['SOAK']) / 4);
const options = { numRuns: RUNS };
const folder = mkdtempSync(path.join(tmpdir(), 'batharon-fuzz-'));
afterAll(() => rmSync(folder, { recursive: true }));

const CHAIN = chainOf(`- call: due
  request: GET /due
  expect: [status == 200, "length($.items) == 3"]
  keep: { items: $.items, secretly: secret($.token) }
- each: item in items
  identified-by: item.id
  on-failure: continue
  gather: { ids: "{item.id}" }
  steps:
    - call: one
      request: POST /one/{item.id}
      json: { id: "{item.id}" }
      expect: [$.ok == true, "all($.items, @.id > 1)"]
- call: job
  request: GET /job
  poll: { until: $.ok == true, every: 1s, within: 2s }`);
const BODY = '{"items": [{"id": 1}, {"id": 2}, {"id": 3}], "token": "tok-en-1234", "ok": true}';

async function recordedLines(): Promise<readonly string[]> {
  const { events } = await coreRun(CHAIN, { answers: [{ body: BODY }, { body: BODY }, { body: '{"ok": false}' }] });
  return events.map((event) => JSON.stringify(event));
}

/** What can happen to a journal: bytes and lines lost, doubled, moved, joined, changed; members that are something else. */
const odd = fc.constantFrom(null, 0, -1, '', 'x', [], {}, [null], { a: 1 }, 1e300, false);
const damage = fc.oneof(
  fc.record({ what: fc.constant('cut' as const), at: fc.nat(), to: fc.nat(40) }),
  fc.record({ what: fc.constant('byte' as const), at: fc.nat(), to: fc.integer({ min: 0, max: 255 }) }),
  fc.record({ what: fc.constant('drop' as const), at: fc.nat(), to: fc.nat() }),
  fc.record({ what: fc.constant('double' as const), at: fc.nat(), to: fc.nat() }),
  fc.record({ what: fc.constant('swap' as const), at: fc.nat(), to: fc.nat() }),
  fc.record({ what: fc.constant('zeros' as const), at: fc.nat(), to: fc.nat(200) }),
  fc.record({ what: fc.constant('member' as const), at: fc.nat(), to: fc.nat(), by: odd }),
);

function damaged(lines: readonly string[], all: readonly (typeof damage extends fc.Arbitrary<infer T> ? T : never)[]) {
  let bytes = Buffer.from(`${lines.join('\n')}\n`);
  const edit = (change: (parts: string[], at: number) => void, at: number) => {
    const parts = bytes.toString('latin1').split('\n');
    change(parts, at % parts.length);
    bytes = Buffer.from(parts.join('\n'), 'latin1');
  };
  for (const each of all) {
    const at = each.at % (bytes.length + 1);
    if (each.what === 'cut') bytes = Buffer.concat([bytes.subarray(0, at), bytes.subarray(at + each.to)]);
    if (each.what === 'byte' && at < bytes.length) bytes[at] = each.to;
    if (each.what === 'zeros') bytes.fill(0, at, Math.min(bytes.length, at + each.to));
    if (each.what === 'drop') edit((parts, i) => parts.splice(i, 1), each.at);
    if (each.what === 'double') edit((parts, i) => parts.splice(each.to % parts.length, 0, parts[i]!), each.at);
    if (each.what === 'swap') edit((parts, i) => parts.push(...parts.splice(i, 1)), each.at);
    if (each.what === 'member')
      edit((parts, i) => {
        try {
          const event = JSON.parse(parts[i]!) as Record<string, unknown>;
          const names = Object.keys(event);
          event[names[each.to % names.length]!] = each.by;
          parts[i] = JSON.stringify(event);
        } catch {
          // It is damaged already.
        }
      }, each.at);
  }
  return bytes;
}

test('whatever happened to a journal, everything that reads it reads the rest', async () => {
  const lines = await recordedLines();
  let n = 0;
  fc.assert(
    fc.property(fc.array(damage, { minLength: 1, maxLength: 6 }), (all) => {
      const id = `r${n++ % 8}`;
      mkdirSync(path.join(folder, 'runs', id), { recursive: true });
      writeFileSync(path.join(folder, 'runs', id, 'journal.ndjson'), damaged(lines, all));
      const run = readRun(folder, id)!;
      endsOfRun(folder, id);
      boundNames(run.events);
      for (const exchange of exchangesBack(run.journal)) triesOf(exchange, run.journal);
      const records = new CallRecords(id, run.journal, run);
      for (const { plainKey } of records.all()) records.call(plainKey);
      const summary = summarizeRun(sourceOf(run));
      compareRuns(summary, summary);
      for (const { render } of reportFormats)
        for (const piece of render([summary], 'batharon', [])) expect(piece).toBeDefined();
    }),
    options,
  );
}, 3_600_000);

const parts = fc.constantFrom(
  'a',
  '.',
  '..',
  '.git',
  'GIT~1',
  '.Batharon',
  'node_modules',
  'NODE_MODULES',
  'con',
  'NUL.txt',
  'secrets.env',
  'SECRETS.ENV',
  'batharon.yaml',
  'x.chain.yaml',
  'a:b',
  'a ',
  'a.',
  '\u202e',
  '\ufeff.git',
  '\uff0egit',
  'ﬁle',
  '~',
  '%2e%2e',
  '',
  '\u0000',
  '-',
);
const fileNames = fc
  .array(fc.oneof({ weight: 4, arbitrary: parts }, fc.string({ maxLength: 6, unit: 'binary' })), {
    minLength: 1,
    maxLength: 5,
  })
  .chain((all) => fc.constantFrom('/', '\\', '').map((by) => all.join(by)));

test('a name that a chain may use is of no file that it may not', () => {
  fc.assert(
    fc.property(fileNames, (name) => {
      if (whyProtected(name) !== undefined) return;
      const folded = name
        .normalize('NFKC')
        .replace(/[\u00ad\u200b-\u200f\u202a-\u202e\u2060-\u206f\ufeff]/g, '')
        .toLowerCase();
      for (const segment of folded.split(/[/\\]/)) {
        if (segment === '.' || segment === '..') continue;
        expect(segment).not.toMatch(/^\.|^node_modules$|[:\u0000-\u001f]|[. ]$|^(?:con|nul)(?:\.|$)/);
      }
      expect(folded).not.toMatch(/(?:^|[/\\])(?:secrets\.env|batharon\.yaml|[^/\\]*\.chain\.yaml)$/);
    }),
    { numRuns: RUNS * 10 },
  );
});
