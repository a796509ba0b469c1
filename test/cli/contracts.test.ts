import { useFolders, type Folder } from '../support/program.ts';
import { serve } from '../support/serving.ts';
import { copyDemoInto, SECRETS, useHarbour } from '../support/harbour.ts';

const harbour = useHarbour();
const folderWith = useFolders();

function demo(): Folder {
  const folder = folderWith();
  copyDemoInto(folder, harbour());
  return folder;
}

test('a chain that fits its description passes, and the last line says what of it was exercised', async () => {
  const { status, out } = await demo().run(['run', 'chains/described.chain.yaml']);
  expect(status).toBe(0);
  expect(out).toContain('4 calls, 8 expectations');
  expect(out).toMatch(/contract\s+harbour\.yaml:\s+4\s+of\s+16\s+operations/);
});

test('a response that departs fails its call, with the place in the body and in the description', async () => {
  const folder = demo();
  const { status, out } = await folder.run(['run', 'chains/pier.chain.yaml']);
  expect(status).toBe(1);
  expect(out).toContain('contract openapi/harbour.yaml   is not kept');
  expect(out).toMatch(/\$\.wind {3}must be number, not 'a light breeze' \(openapi\/harbour\.yaml:\d+\)/);
  const held = folder.read('batharon.yaml');
  folder.write(
    'batharon.yaml',
    held.replace('contract: openapi/harbour.yaml', 'contract: { file: openapi/harbour.yaml, mode: warn }'),
  );
  const warned = await folder.run(['run', 'chains/pier.chain.yaml']);
  expect([warned.status, warned.all.includes('contract-mismatch')]).toEqual([0, true]);
  expect(warned.out).toContain('1 note');
  expect((await folder.run(['run', 'chains/pier.chain.yaml', '--strict'])).status).toBe(1);
  expect((await folder.run(['rehearse', 'chains/pier.chain.yaml'])).status).toBe(0);
});

const WRONG: readonly (readonly [call: string, said: string])[] = [
  ['request: GET /vesels', 'GET /vesels is not an operation of openapi/harbour.yaml. Did you mean GET /vessels?'],
  ['request: DELETE /vessels', 'DELETE /vessels is not an operation of openapi/harbour.yaml. That path has GET.'],
  [
    'request: GET /arrivals?dya=2026-05-23',
    'The parameter dya is not described (openapi/vessels.yaml:101). Did you mean "day"?',
  ],
  ['request: GET /arrivals\nquery: { state: expcted }', 'The parameter state must be one of'],
  ['request: GET /arrivals\nquery: { limit: 500 }', 'The parameter limit must be <= 100'],
  ['request: GET /soundings/X9', 'The path parameter berth must match pattern'],
  [
    'request: GET /berths/N1\nexpect: [status == 418]',
    'GET /berths/{id} does not describe the status 418. It describes 200, 404.',
  ],
  ['request: GET /arrivals\nexpect: ["length($.arivals) > 0"]', '$ has no "arivals" in the description'],
  ['request: GET /arrivals\nexpect: ["all($.arrivals, @.stat == \'moored\')"]', '@ has no "stat" in the description'],
  ['request: GET /arrivals\nkeep: { v: "$.arrivals[?@.vesel == \'x\'].id" }', '@ has no "vesel" in the description'],
  ['request: GET /arrivals\nkeep: { v: "$.arrivals[0].berht" }', '$.arrivals[0] has no "berht" in the description'],
  ['request: GET /arrivals\nkeep: { v: "$.total[0]" }', '$.total is no array in the description'],
  ['request: POST /berths', 'A body is required'],
  ['request: POST /berths\njson: { name: N, depth: 7 }', 'The body must have the member "quay"'],
  ['request: POST /berths\njson: { name: N, depth: 7, quay: E }', '$.quay must be one of'],
  ['request: POST /berths\njson: { name: N, depth: "{day}", qay: N }', 'The body has "qay", which is not described'],
  ['request: POST /berths\nxml: <berth/>', 'The media type application/xml is not offered'],
  ['request: PUT /berths/N1\njson: { depth: 5 }', 'The header If-Match is required'],
  ['request: GET /berths\njson: { a: 1 }', 'A body is not described'],
];

test('what does not fit is told before anything is sent, each at its call', async () => {
  const folder = demo();
  const steps = WRONG.map(([call], i) => `  - call: c${i}\n${call.replace(/^/gm, '    ')}\n`);
  folder.write(
    'chains/wrong.chain.yaml',
    `api: port\ninputs: { day: { type: date, default: '2026-05-23' } }\nsteps:\n${steps.join('')}`,
  );
  const { status, out } = await folder.run(['check', 'chains/wrong.chain.yaml', '--as', 'json']);
  expect(status).toBe(2);
  const problems = JSON.parse(out) as { code: string; line: number; message: string; advice?: string }[];
  const text = folder.read('chains/wrong.chain.yaml').split('\n');
  for (const [i, [call, said]] of WRONG.entries()) {
    const from = text.indexOf(`  - call: c${i}`) + 1;
    const lines = call.split('\n').length;
    const here = problems.filter(
      ({ line, code }) => code === 'contract-mismatch' && line > from && line <= from + lines,
    );
    const words = here.map(({ message, advice }) => [message, advice].filter(Boolean).join('. '));
    expect([call, words.some((each) => each.includes(said)) || words]).toEqual([call, true]);
  }
  expect(problems.filter(({ code }) => code === 'contract-mismatch').length).toBeLessThanOrEqual(WRONG.length + 2);
});

test('a description with a broken part warns at the call that needs it, and is used for all else', async () => {
  const folder = demo();
  folder.write(
    'openapi/vessels.yaml',
    folder.read('openapi/vessels.yaml').replace("'#/schemas/Arrival'", "'#/schemas/Gone'"),
  );
  const { status, all } = await folder.run(['check', 'chains/described.chain.yaml']);
  expect(status).toBe(0);
  expect(all).toContain('invalid-contract');
  expect(all).toContain('#/schemas/Gone refers to nothing: openapi/vessels.yaml has no "Gone" there');
  expect((await folder.run(['run', 'chains/described.chain.yaml'])).status).toBe(0);
  folder.write('openapi/harbour.yaml', 'swagger: "2.0"\n');
  expect((await folder.run(['check', 'chains/described.chain.yaml'])).all).toContain('OpenAPI 2.0');
});

test('a schema that does not compile is a note where a response would be judged by it', async () => {
  const folder = demo();
  folder.write(
    'openapi/vessels.yaml',
    folder
      .read('openapi/vessels.yaml')
      .replace('state: { type: string, enum: [queued', 'state: { type: strange, enum: [queued'),
  );
  folder.write(
    'chains/job.chain.yaml',
    'api: port\nsteps:\n  - call: ask\n    request: POST /vessels/{v}/clearance\n    json: { master: M, draught: 3 }\ninputs: { v: { type: string, default: KM 100/9 } }\n',
  );
  const vessels = await folder.run(['send', 'GET', '/vessels', '--api', 'port']);
  const [vessel] = (JSON.parse(vessels.out) as { vessels: { id: string }[] }).vessels;
  const { status, all } = await folder.run(['run', 'chains/job.chain.yaml', '--input', `v=${vessel!.id}`]);
  expect(status).toBe(0);
  expect(all).toMatch(/invalid-contract: openapi\/vessels\.yaml:\d+: This schema cannot be used/);
});

test('an example that does not fit its schema is told, and the schema counts', async () => {
  const folder = demo();
  folder.write(
    'openapi/berths.yaml',
    folder.read('openapi/berths.yaml').replace('depth: 7.5, quay: N }', 'depth: deep, quay: N }'),
  );
  const { out } = await folder.run(['draft', 'openapi/harbour.yaml', 'createBerth', '--into', 'chains/new.chain.yaml']);
  expect(out).toMatch(/The example does not fit its schema: \/depth must be number \(openapi\/berths\.yaml:\d+\)/);
  expect(folder.read('chains/new.chain.yaml')).toContain('depth: 1');
});

/** What comes of work against what serves the description, and what that said. */
async function serving<T>(
  folder: Folder,
  work: (url: string) => Promise<T>,
): Promise<Readonly<{ out: string; result: T }>> {
  const served = await serve(folder, '--contract', 'openapi/harbour.yaml');
  const result = await work(served.url);
  await served.stop();
  return { out: served.out(), result };
}

test('every operation is drafted, fits its description, and passes against what serves it', async () => {
  const folder = folderWith({ 'secrets.env': `${SECRETS}API_TOKEN=made-up-token-9\n` });
  const from = demo();
  for (const name of ['harbour', 'vessels', 'berths'])
    folder.write(`openapi/${name}.yaml`, from.read(`openapi/${name}.yaml`));
  const list = await folder.run(['draft', 'openapi/harbour.yaml', '--list']);
  const ids = [...list.out.matchAll(/^[A-Z]+ +\/\S* +(\w+) /gm)].map(([, id]) => id!);
  expect(ids).toHaveLength(16);
  const { result } = await serving(folder, async (url) => {
    folder.write('openapi/harbour.yaml', folder.read('openapi/harbour.yaml').replace('http://127.0.0.1:4090', url));
    const drafted = await folder.run(['draft', 'openapi/harbour.yaml', ...ids, '--into', 'chains/all.chain.yaml']);
    expect([drafted.status, drafted.err]).toEqual([0, '']);
    expect(folder.read('batharon.yaml')).toContain('contract: openapi/harbour.yaml');
    const checked = await folder.run(['check']);
    expect([checked.status, checked.all]).toEqual([0, expect.stringContaining('no problems found')]);
    return folder.run(['run', 'chains/all.chain.yaml', '--input', 'if_match=x', '--no-prompt']);
  });
  expect(result.out).toMatch(/contract\s+harbour\.yaml:\s+16\s+of\s+16\s+operations/);
  expect(result.status).toBe(0);
});

test('calls of an API that the project has use its credentials, unless their operations say otherwise', async () => {
  const folder = demo();
  const described = folder.read('openapi/harbour.yaml');
  folder.write(
    'openapi/harbour.yaml',
    described.replace('operationId: getTides', 'operationId: getTides\n      security: []'),
  );
  const secrets = folder.read('secrets.env');
  const drafted = await folder.run([
    'draft',
    'openapi/harbour.yaml',
    'listVessels',
    'getTides',
    '--into',
    'chains/known.chain.yaml',
  ]);
  expect([drafted.status, drafted.out.includes('secret')]).toEqual([0, false]);
  expect(folder.read('secrets.env')).toBe(secrets);
  expect(folder.read('chains/known.chain.yaml').match(/auth: .*/g)).toEqual(['auth: none']);
  expect((await folder.run(['run', 'chains/known.chain.yaml', '--to', 'list-vessels'])).status).toBe(0);
});

test('what does not fit is refused by what serves a description', async () => {
  const asked: readonly (readonly [path: string, init: RequestInit, status: number, said: string])[] = [
    ['/v1/arrivals?limit=5', {}, 200, '"arrivals"'],
    ['/v1/arrivals?limit=many', {}, 400, 'The parameter limit must be integer'],
    ['/v1/vessels', { method: 'POST' }, 405, '/v1/vessels has GET'],
    ['/v1/nowhere/at/all', {}, 501, 'is not as described'],
    [
      '/v1/berths',
      { method: 'POST', body: '{"name": "N"}', headers: { 'Content-Type': 'application/json' } },
      400,
      'must have the member',
    ],
    [
      '/v1/berths',
      { method: 'POST', body: 'x', headers: { 'Content-Type': 'text/plain' } },
      400,
      'text/plain is not offered',
    ],
  ];
  const { out, result } = await serving(demo(), async (url) => {
    const answers = [];
    for (const [path, init] of asked) {
      const response = await fetch(url + path, init);
      answers.push([response.status, await response.text()] as const);
    }
    return answers;
  });
  for (const [i, [path, , status, said]] of asked.entries())
    expect([path, ...result[i]!]).toEqual([path, status, expect.stringContaining(said)]);
  expect(out).toContain('6 requests, 5 of them not as described');
});

test('two descriptions are compared: what breaks a chain first, with its line', async () => {
  const folder = demo();
  for (const name of ['harbour', 'vessels', 'berths'])
    folder.write(`new/${name}.yaml`, folder.read(`openapi/${name}.yaml`));
  const same = await folder.run(['compare', 'openapi/harbour.yaml', 'new/harbour.yaml']);
  expect([same.status, same.out]).toEqual([0, expect.stringContaining('0 changes')]);
  const change = (file: string, from: string, to: string) => folder.write(file, folder.read(file).replaceAll(from, to));
  change('new/berths.yaml', 'taken_by', 'occupied_by');
  change('new/vessels.yaml', 'enum: [expected, moored, left]', 'enum: [due, moored, left]');
  change('new/vessels.yaml', 'operationId: getJob', 'deprecated: true\n    operationId: getJob');
  change('new/harbour.yaml', '  /weather/slow:', '  /weather/quick:');
  const { status, out } = await folder.run(['compare', 'openapi/harbour.yaml', 'new/harbour.yaml', '--as', 'json']);
  expect(status).toBe(1);
  type Told = {
    breaks: { file: string; line: number; message: string }[];
    changes: { operation: string; text: string; mayBreak: boolean }[];
  };
  const { breaks, changes } = JSON.parse(out) as Told;
  expect(breaks.map(({ file, line }) => `${file}:${line}`)).toEqual([
    'chains/described.chain.yaml:11',
    'chains/described.chain.yaml:23',
  ]);
  const texts = changes.map(({ operation, text, mayBreak }) => `${mayBreak ? '!' : ' '} ${operation} ${text}`);
  for (const wanted of [
    '! GET /weather/slow is gone',
    '  GET /weather/quick is new',
    '  GET /jobs/{id} is deprecated now',
    '! GET /berths the response 200: berths[].taken_by is gone',
    '  GET /berths the response 200: berths[].occupied_by is new',
    '! GET /arrivals the parameter state is string of due, moored, left now, and was string of expected, moored, left',
  ])
    expect(texts).toContain(wanted);
  const shown = await folder.run(['compare', 'openapi/harbour.yaml', 'new/harbour.yaml']);
  expect(shown.out).toContain('breaks chains of this project');
});

test('reports tell what of a description was seen, never seen, and seen without being described', async () => {
  const folder = demo();
  folder.write(
    'openapi/vessels.yaml',
    folder
      .read('openapi/vessels.yaml')
      .replace(
        '      length: { type: integer, description: Metres. }\n    additionalProperties: false\n',
        '      crew: { type: integer }\n',
      )
      .replace('draught, length]', 'draught]'),
  );
  const reports = ['json=r.json', 'html=r.html', 'markdown=r.md'].flatMap((each) => ['--report', each]);
  expect((await folder.run(['run', 'chains/described.chain.yaml', ...reports])).status).toBe(0);
  type Seen = { name: string; count: number; described: boolean }[];
  type Told = {
    contracts: {
      exercised: number;
      operations: { operation: string; requests: number; statuses?: Seen; parameters?: Seen; members?: Seen }[];
    }[];
  };
  const [contract] = (JSON.parse(folder.read('r.json')) as Told).contracts;
  const vessel = contract!.operations.find(({ operation }) => operation === 'GET /vessels/{id}')!;
  expect([contract!.exercised, vessel.requests]).toEqual([4, 1]);
  expect(vessel.statuses).toEqual([
    { name: '200', count: 1, described: true },
    { name: '404', count: 0, described: true },
  ]);
  expect(vessel.members).toContainEqual({ name: 'crew', count: 0, described: true });
  expect(vessel.members).toContainEqual({ name: 'length', count: 1, described: false });
  expect(folder.read('r.html')).toContain('Contract: Port of Kvitnes');
  expect(folder.read('r.md')).toContain('not described: `length`');
});

test('about, look and find say which operation it is, and what a member means', async () => {
  const folder = demo();
  await folder.run(['run', 'chains/described.chain.yaml']);
  expect((await folder.run(['about', 'POST /vessels/{id}/clearance'])).out).toMatch(
    /Look at the job until it is\s+settled/,
  );
  expect((await folder.run(['about', 'getJob'])).out).toContain('How far a clearance is');
  expect((await folder.run(['look', 'vessel'])).out).toContain('operation GET /vessels/{id} of openapi/harbour.yaml');
  expect((await folder.run(['find', 'draught', '--call', 'vessel'])).out).toContain(
    'number, Metres of water that she needs.',
  );
});

test.each([
  [['draft', 'openapi/harbour.yaml'], 'To list them: batharon draft openapi/harbour.yaml --list'],
  [['draft', 'openapi/harbour.yaml', 'getVesel'], 'Did you mean "getVessel"?'],
  [['draft', 'openapi/harbour.yaml', 'GET /vesels'], 'Did you mean "GET /vessels"?'],
  [
    ['draft', 'openapi/harbour.yaml', '--list', 'submarine'],
    'No operation of openapi/harbour.yaml mentions "submarine"',
  ],
  [['draft', 'openapi/gone.yaml', '--list'], 'does not exist'],
  [['draft', 'curl http://127.0.0.1:1/x', 'getVessel'], 'Operations are those of an API description'],
  [['serve', '--contract', 'tables/cargo.csv'], 'This file is no OpenAPI description'],
  [['serve', '--contract', 'openapi/harbour.yaml', '--timed'], '--timed is for a recorded run'],
])('%j says what to do', async (args, said) => {
  const { status, all } = await demo().run(args);
  expect([status, all.replace(/\s+/g, ' ')]).toEqual([2, expect.stringContaining(said)]);
});
