import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { openBrowser, testWith } from '../support/needs.ts';
import Ajv from 'ajv';
import { createServer } from 'node:http';
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { createValidator } from '../../src/core/json-schema-packages.ts';
import { readXml } from '../../src/core/value/xml.ts';
import { copyDemoInto, TOKEN, useDemo, useHarbour } from '../support/harbour.ts';
import { useFolders, type Folder } from '../support/program.ts';

const harbour = useHarbour();
const folderWith = useFolders();
const other = useDemo();
const FORMS = ['html', 'junit', 'tap', 'har', 'csv', 'json', 'markdown'];
let folder: Folder;
let texts: Record<string, string>;

beforeAll(async () => {
  folder = folderWith();
  copyDemoInto(folder, harbour());
  await folder.run([
    'run',
    'chains/clearance.chain.yaml',
    ...FORMS.flatMap((kind) => ['--report', `${kind}=${kind}.txt`]),
  ]);
  texts = Object.fromEntries(FORMS.map((kind) => [kind, folder.read(`${kind}.txt`)]));
}, 60_000);

/** Makes every attempt to open a socket, or to look a name up, an error. */
const NO_SOCKETS = `
const refuse = () => { throw new Error('no sockets here'); };
const { Socket, Server } = require('node:net');
Socket.prototype.connect = refuse;
Server.prototype.listen = refuse;
require('node:dns').lookup = refuse;
`;

test('all of them are made from the journal alone, also later, and none holds a secret', async () => {
  await folder.run(['report', 'last', ...FORMS.map((kind) => `${kind}=again.${kind}`)]);
  for (const kind of FORMS) {
    expect(folder.read(`again.${kind}`)).toBe(texts[kind]);
    expect(texts[kind]).not.toContain(TOKEN);
  }
});

test('HAR 1.2 is valid by its schemas', () => {
  const schemas = path.join(__dirname, '../fixtures/har');
  const ajv = new Ajv({ strict: false, validateFormats: false });
  for (const name of readdirSync(schemas).filter((each) => each.endsWith('.json'))) {
    const { $schema: _$schema, ...schema } = JSON.parse(readFileSync(path.join(schemas, name), 'utf8'));
    ajv.addSchema(schema);
  }
  const validate = ajv.getSchema('har.json#')!;
  validate(JSON.parse(texts['har']!));
  expect(validate.errors ?? []).toEqual([]);
  expect(JSON.parse(texts['har']!).log.entries.length).toBeGreaterThan(20);
});

test('JUnit XML: a suite, a case for each call by its stable name, failures with their place', () => {
  const read = readXml(texts['junit']!);
  expect('document' in read).toBe(true);
  expect(texts['junit']).toMatch(/<testsuite name="clear-arrivals" tests="17" failures="2"/);
  expect(texts['junit']).toMatch(
    /<testcase name="watch-clearance \[TR 360\/1\]"[^>]* line="\d+">\s*<failure message="gave-up:/,
  );
});

test('the journal is as its schema says', () => {
  const schema = JSON.parse(readFileSync(path.join(__dirname, '../../docs/journal.schema.json'), 'utf8'));
  const validate = createValidator({ strict: false }).compile(schema);
  const texts = folder.all().flatMap(([name, text]) => (name.endsWith('journal.ndjson') ? [text] : []));
  const lines = texts.flatMap((text) =>
    text
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as unknown),
  );
  for (const each of [...lines, ...folder.journals().flat()]) {
    validate(each);
    expect([each, validate.errors ?? []]).toEqual([each, []]);
  }
  expect(lines.some((line) => Array.isArray(line))).toBe(true);
});

test('TAP 14, CSV, Markdown and JSON tell the same', () => {
  expect(texts['tap']).toMatch(/^TAP version 14\n1\.\.1\n {4}# Subtest: clear-arrivals\n {4}1\.\.17\n/);
  expect(texts['tap']!.match(/^ {4}not ok/gm)).toHaveLength(2);
  expect(texts['csv']!.trim().split('\n')).toHaveLength(18);
  expect(texts['markdown']).toMatch(/^## clear-arrivals: failed\n/);
  const told = JSON.parse(texts['json']!).runs[0];
  expect([told.outcome, told.calls.length, told.outputs]).toEqual(['failed', 17, { cleared: '3', of: '5' }]);
});

testWith(
  ['chromium'],
  'the page reads without scripts or network, at any width, and escapes what came from the server',
  async () => {
    const browser = await openBrowser();
    try {
      const page = await browser.newPage({ javaScriptEnabled: false, viewport: { width: 700, height: 800 } });
      const asked: string[] = [];
      page.on('request', (request) => asked.push(request.url()));
      folder.write('page.html', texts['html']!);
      await page.goto(`file://${path.join(folder.path, 'page.html')}`);
      expect(await page.locator('h1').innerText()).toContain('clear-arrivals');
      expect(await page.locator('.card.failed').count()).toBe(1);
      expect(await page.locator('.card.failed tbody tr').count()).toBe(2);
      expect(await page.locator('svg rect').count()).toBeGreaterThan(20);
      expect(asked.filter((url) => !url.startsWith('file:'))).toEqual([]);
      const box = await page.locator('main').boundingBox();
      expect(box!.width).toBeLessThanOrEqual(700);
    } finally {
      await browser.close();
    }
    expect(texts['html']).not.toContain('<script');
    expect(texts['html']).toMatch(
      /Content-Security-Policy" content="default-src &#39;none&#39;|Content-Security-Policy" content="default-src 'none'/,
    );
  },
  60_000,
);

test('two runs beside each other: shape first, ids and times set aside', async () => {
  let version = 1;
  const server = createServer((_request, response) => {
    const body = {
      id: `J-${version}00`,
      at: new Date().toISOString(),
      n: version,
      ...(version === 1 ? { old: 1 } : { fresh: [] }),
    };
    response.setHeader('Content-Type', 'application/json').end(JSON.stringify(body));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const place = folderWith({
    'batharon.yaml': `apis: { a: { url: "${url}" } }\n`,
    'c.chain.yaml': 'steps:\n  - call: one\n    request: GET /one\n',
  });
  for (version of [1, 2]) await place.run(['run', 'c.chain.yaml']);
  server.close();
  const [first] = JSON.parse((await place.run(['runs', '--as', 'json'])).out)
    .map(({ run }: { run: string }) => run)
    .reverse();
  const { status, out } = await place.run(['compare', first]);
  expect(status).toBe(1);
  expect(
    out
      .split('\n')
      .filter((line) => /^ {2}(shape|value)/.test(line))
      .map((line) => line.trim()),
  ).toEqual([
    expect.stringMatching(/^shape +\$\.old was removed/),
    expect.stringMatching(/^shape +\$\.fresh was added/),
    expect.stringMatching(/^value +\$\.n is 2, was 1/),
  ]);
  expect(out).toContain('2 differences in ids and times ignored');
});

test('several chains: folders, one summary, gives by name; as far as one call, one call alone, and offline', async () => {
  const demo = other();
  const many = await demo.run([
    'run',
    'chains/water.chain.yaml',
    'chains/berth.chain.yaml',
    '--out',
    'outputs.json',
    '--quiet',
  ]);
  expect([many.status, many.all]).toEqual([0, expect.stringMatching(/^wrote +outputs\.json\n$/)]);
  expect(Object.keys(JSON.parse(demo.read('outputs.json')))).toEqual(['berth-for-arrival', 'water']);
  const slice = await demo.run([
    'run',
    'chains',
    '--slice',
    '1/99',
    '--limit-share',
    '1/1',
    '--quiet',
    '--report',
    'junit=-',
  ]);
  expect(slice.out).toContain('<testsuite name="arrivals"');
  const to = await demo.run(['run', 'chains/clearance.chain.yaml', '--to', 'ask-clearance']);
  expect([to.status, /11 calls/.test(to.all), to.all.includes('close-day')]).toEqual([0, true, false]);
  const only = await demo.run(['run', 'chains/clearance.chain.yaml', '--only', 'watch-clearance', '--item', '1']);
  expect([only.status, /2#1\.3|1 of 5 items/.test(only.all)]).toEqual([0, true]);
  await demo.run(['run', 'chains/clearance.chain.yaml']);
  demo.write('no-sockets.cjs', NO_SOCKETS);
  const env = { NODE_OPTIONS: '--require ./no-sockets.cjs' };
  const offline = await demo.run(['rehearse', 'chains/clearance.chain.yaml'], { env });
  expect((await demo.run(['run', 'chains/berth.chain.yaml'], { env })).all).toContain('no sockets here');
  expect([offline.status, /5 items, 2 failed/.test(offline.all), !offline.all.includes('requests in')]).toEqual([
    1,
    true,
    true,
  ]);
  demo.write('chains/clearance.chain.yaml', demo.read('chains/clearance.chain.yaml').replace('due {day}', 'dew {day}'));
  const differs = await demo.run(['rehearse', 'chains/clearance.chain.yaml', '--quiet']);
  expect(differs.all).toMatch(/recorded-otherwise: .*body \$\.note/s);
  const standing = await demo.run([]);
  expect(standing.all).toMatch(/batharon resume \d{4}-/);
}, 60_000);

test('the completion of each shell names commands and their options', async () => {
  for (const shell of ['bash', 'zsh', 'fish']) {
    const { out, status } = await folder.run(['completion', shell]);
    expect([status, out.includes('rehearse'), out.includes('parallel-chains')]).toEqual([0, true, true]);
  }
});

test('as a library: load, check, run, read the journal; and nothing else is exported', async () => {
  const library = await import(path.join(__dirname, '../../dist/index.cjs'));
  expect(
    Object.keys(library)
      .filter((name) => name !== 'default' && name !== 'module.exports')
      .sort(),
  ).toEqual(['loadProject', 'openJournal', 'reportFormats', 'runLoaded']);
  const place = mkdtempSync(path.join(tmpdir(), 'batharon-library-'));
  expect(() => library.loadProject(place)).toThrow();
  const project = library.loadProject(folder.path);
  expect(project.chains).toContain('chains/berth.chain.yaml');
  const chain = project.chain('chains/berth.chain.yaml');
  expect(chain.diagnostics.filter(({ level }: { level: string }) => level === 'error')).toEqual([]);
  const { exit, outputs, journal } = await library.runLoaded(chain, { inputs: { day: '2026-05-23' } });
  expect([exit, outputs.berth]).toEqual([0, expect.stringMatching(/^[NSW]\d$/)]);
  expect(journal.summary().calls.length).toBeGreaterThan(2);
});

test('the example of docs/library.md runs as it stands', async () => {
  const text = readFileSync(path.join(__dirname, '../../docs/library.md'), 'utf8');
  const [, example = ''] = /```js\n([^]*?)```/.exec(text) ?? [];
  const entry = JSON.stringify(path.join(__dirname, '../../dist/index.cjs'));
  folder.write('from-node.cjs', example.replace("'batharon'", entry));
  const { stdout } = await promisify(execFile)(process.execPath, ['from-node.cjs'], { cwd: folder.path });
  expect(stdout).toMatch(/^(200\n)+(?:20\d\n)*0 .*berth.* passed\n$/);
});

test('a run from Node: what is wrong is told, events are given as they are recorded, and an abort pauses it', async () => {
  const library = await import(path.join(__dirname, '../../dist/index.cjs'));
  const chain = library.loadProject(folder.path).chain('chains/berth.chain.yaml');
  const wrong = await library.runLoaded(chain, { inputs: { day: 7, dya: 'x' } });
  expect([wrong.exit, wrong.journal, wrong.diagnostics.map(({ code }: { code: string }) => code).sort()]).toEqual([
    2,
    undefined,
    ['input-wrong', 'unknown-input'],
  ]);
  const stop = new AbortController();
  const types: string[] = [];
  const paused = await library.runLoaded(chain, {
    inputs: { day: '2026-05-23' },
    signal: stop.signal,
    onEvent: ({ type }: { type: string }) => {
      types.push(type);
      if (type === 'answered') stop.abort();
    },
  });
  expect([paused.exit, types[0], types.at(-1), paused.journal.summary().outcome]).toEqual([
    130,
    'run',
    'paused',
    'open',
  ]);
}, 60_000);
