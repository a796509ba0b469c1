import { projectFile, SECRETS, useHarbour } from '../support/harbour.ts';
import { useFolders } from '../support/program.ts';

const harbour = useHarbour();
const folder = useFolders();
const project = () => folder({ 'batharon.yaml': projectFile(harbour()), 'secrets.env': SECRETS });

describe('send', () => {
  test('through an api: credentials and encoding are its business; piped, standard output is the body', async () => {
    const place = project();
    const { status, out, err } = await place.run(['send', 'get', '/vessels', '--api', 'harbour', '--query', 'flag=NO']);
    expect(status).toBe(0);
    expect((JSON.parse(out) as { vessels: { flag: string }[] }).vessels.every(({ flag }) => flag === 'NO')).toBe(true);
    expect(err).toMatch(/GET http:\S+\/v1\/vessels\?flag=NO\n200 OK {3}\d+ ms, [\d.]+ k?B\n/);
  });

  test('says when there is a next page, and not on the last one', async () => {
    const place = project();
    const arrivals = (page: number) =>
      place.run(['send', 'GET', '/arrivals', '--api', 'harbour', '--query', 'limit=8', '--query', `page=${page}`]);
    expect((await arrivals(1)).err).toMatch(
      /next page: http:\S+\/v1\/arrivals\?limit=8&page=2 {3}in a chain: paging: \{next: link\('next'\)\}\n/,
    );
    expect((await arrivals(99)).err).not.toContain('next page');
  });

  test('anywhere with an absolute URL, outside of any project', async () => {
    const place = folder();
    const { status, out } = await place.run(['send', 'GET', `${harbour().url}/v1/vessels`]);
    expect(status).toBe(1);
    expect(JSON.parse(out)).toMatchObject({ status: 401, detail: 'A bearer token is required.' });
    expect((await place.run(['look'])).out).toContain('401 Unauthorized');
  });

  test('an absolute URL of another origin gets no credentials', async () => {
    const { out } = await project().run([
      'send',
      'GET',
      `${harbour().url.replace('127.0.0.1', 'localhost')}/v1/vessels`,
      '--api',
      'harbour',
    ]);
    expect(out).toContain('A bearer token is required.');
  });

  test('a body, a header, and a refusal that says why', async () => {
    const place = project();
    const made = await place.run([
      'send',
      'POST',
      '/berths',
      '--api',
      'harbour',
      '--header',
      'X-Trace: a b',
      '--json',
      '{"name": "North quay 9",\n "depth": 7.50, "quay": "N"}',
    ]);
    expect(JSON.parse(made.out)).toMatchObject({ name: 'North quay 9', depth: 7.5 });
    const { out } = await place.run(['look', '--as', 'json']);
    expect(JSON.parse(out)).toMatchObject({
      request: {
        headers: expect.arrayContaining([['X-Trace', 'a b']]) as string[][],
        body: { text: '{"name":"North quay 9","depth":7.50,"quay":"N"}' },
      },
    });
    const refused = await place.run(['send', 'POST', '/berths', '--api', 'harbour', '--json', '-'], {
      input: '{"name": 1}',
    });
    expect(refused.status).toBe(1);
    expect(JSON.parse(refused.out)).toMatchObject({
      status: 422,
      errors: [{ pointer: '/name' }, { pointer: '/depth' }, { pointer: '/quay' }],
    });
  });

  test.each([
    [['send', 'GET', '/vessels'], 'api-not-specified'],
    [['send', 'GET', '/vessels', '--api', 'harbor'], 'Did you mean "harbour"?'],
    [['send', 'GET', '/vessels/{id}', '--api', 'harbour'], 'unknown-name'],
    [['send', 'GET', 'vessels', '--api', 'harbour'], 'invalid-target'],
    [['send', 'GET', '/vessels', '--query', 'flag'], '--query needs NAME=VALUE'],
    [['send', 'GET'], 'A request needs a method and a target'],
    [['send', 'GET', '/a', '--jsn', 'x'], 'invalid-option'],
  ])('%j is refused with advice', async (args, told) => {
    const { status, err } = await project().run(args);
    expect(status).toBe(2);
    expect(err).toContain(told);
  });

  test('without a project a path goes nowhere', async () => {
    const { status, err } = await folder().run(['send', 'GET', '/vessels']);
    expect([status, err]).toEqual([2, expect.stringContaining('no-project')]);
  });
});

describe('value', () => {
  const document =
    '{"port": "Kvitnes", "n": 1.10, "berths": [{"id": "N1", "depth": 6.5}, {"id": "S 2", "depth": null}]}';
  const place = folder({ 'port.json': document, 'bad.json': '{"a":' });
  afterAll(() => place.remove());
  const rows: readonly (readonly [args: readonly string[], status: number, out: string])[] = [
    [['$.port'], 0, 'Kvitnes\n'],
    [['$.n'], 0, '1.10\n'],
    [['length($.berths)'], 0, '2\n'],
    [['$.berths[*].id'], 0, '[\n  "N1",\n  "S 2"\n]\n'],
    [['$.port', '--as', 'json'], 0, '"Kvitnes"\n'],
    [['$..depth', '--paths'], 0, "$['berths'][0]['depth']  6.5\n$['berths'][1]['depth']  null\n"],
    [
      ['$.berths[?@.depth > 6]', '--paths', '--as', 'json'],
      0,
      '[\n  {"path": "$[\'berths\'][0]", "value": {"id":"N1","depth":6.5}}\n]\n',
    ],
    [['$.gone', '--paths', '--as', 'json'], 0, '[]\n'],
  ];
  test.each(rows)('%j', async (args, status, out) => {
    const result = await place.run(['value', ...args, 'port.json']);
    expect([result.status, result.out, result.err]).toEqual([status, out, '']);
    const piped = await place.run(['value', ...args, '-'], { input: document });
    expect(piped.out).toBe(out);
  });

  test.each([
    [['$.prot', 'port.json'], 1, '$.port is there.'],
    [['$.port +', 'port.json'], 2, 'does-not-parse'],
    [['$.port + 1', 'port.json'], 1, 'string(x)'],
    [['port', 'port.json'], 2, 'The document is $'],
    [['length(port)', 'port.json'], 2, 'Unknown name "port"'],
    [['$.a', 'bad.json'], 2, 'bad.json is not JSON'],
    [['$.a', 'gone.json'], 2, 'file-not-found'],
    [['$.a'], 2, 'Nothing is recorded here yet'],
    [['length($)', '--paths', 'port.json'], 2, 'A path begins with $'],
  ])('%j', async (args, status, told) => {
    const result = await place.run(['value', ...args]);
    expect([result.status, result.out]).toEqual([status, '']);
    expect(result.err).toContain(told);
  });
});

describe('check and look', () => {
  test('check tells all mistakes of all files, as text and as data', async () => {
    const place = project();
    place.write('chains/a.chain.yaml', 'api: harbor\nsteps:\n  - call: one\n    request: GET /a\n    expcet: []\n');
    place.write('chains/b.chain.yaml', 'api: harbour\nsteps:\n  - call: one\n    request: GET /{x}\n');
    const text = await place.run(['check']);
    expect(text.status).toBe(2);
    expect(text.out).toContain(
      'error unknown-api: The project has no API "harbor"\n  chains/a.chain.yaml:1:6\n    1 | api: harbor\n      |      ~~~~~~\n        Did you mean "harbour"?\n',
    );
    expect(text.out).toMatch(/3 errors in 2 chains and the project file\n$/);
    const json = JSON.parse((await place.run(['check', '--as', 'json'])).out) as object[];
    expect(json).toHaveLength(3);
    expect(json[1]).toEqual({
      code: 'unknown-key',
      level: 'error',
      message: 'Unknown key "expcet"',
      advice: 'Did you mean "expect"?',
      correctedLine: '    expect: []',
      file: 'chains/a.chain.yaml',
      line: 5,
      column: 5,
      endLine: 5,
      endColumn: 11,
    });
    expect((await place.run(['check', 'chains/b.chain.yaml'])).out).toContain('1 error in 1 chain');
  });

  test('file not found names the one that is', async () => {
    const place = project();
    place.write('chains/berth.chain.yaml', 'steps: []\n');
    const { err } = await place.run(['run', 'chains/brth.chain.yaml']);
    expect(err).toContain('Did you mean chains/berth.chain.yaml?');
  });

  test('look finds an exchange by call and run, and says what there is otherwise', async () => {
    const place = project();
    place.write(
      'a.chain.yaml',
      'api: harbour\nsteps:\n  - call: vessels\n    request: GET /vessels\n  - call: berths\n    request: GET /berths\n',
    );
    const ran = await place.run(['run', 'a.chain.yaml']);
    const id = /run (\S+)/.exec(ran.out)![1]!;
    expect((await place.run(['look'])).out).toMatch(/^berths {3}run/);
    expect((await place.run(['look', 'vessels', '--run', id])).out).toContain('/v1/vessels');
    expect((await place.run(['look', '1'])).out).toContain('/v1/vessels');
    expect((await place.run(['look', 'vesels'])).err).toContain('Did you mean "vessels"?');
    expect((await place.run(['look', '--run', 'nope'])).err).toContain(`The newest is ${id}`);
    expect((await place.run(['value', 'length($.berths) > 1', '--run', 'last-good'])).out).toBe('true\n');
  });
});

describe('the command line itself', () => {
  test('help groups the commands by the work, and each ends with examples', async () => {
    const place = folder();
    const { out, status } = await place.run(['--help']);
    expect(status).toBe(0);
    for (const name of ['send', 'look', 'value', 'check', 'run', 'demo']) {
      expect(out).toMatch(new RegExp(`^  ${name} +\\w.* (local|network)$`, 'm'));
      expect((await place.run([name, '--help'])).out).toMatch(/\nExamples:\n {2}batharon /);
    }
  });

  test.each([
    [['rnu'], 'Did you mean "run"?'],
    [['run'], 'Missing required argument "chains"'],
    [['run', 'x', '--frist', '1'], 'invalid-option'],
    [['run', 'x'], 'no-project'],
    [['check'], 'no-project'],
  ])('%j', async (args, told) => {
    const { status, err } = await folder().run(args);
    expect(status).toBe(2);
    expect(err).toContain(told);
  });

  test('nothing breaks at 80 columns', async () => {
    const place = project();
    place.write(
      'a.chain.yaml',
      'api: harbour\nsteps:\n  - call: a-call-with-a-very-long-name-indeed\n    request: GET /arrivals?state=expected&day=2026-05-23&flag=NO\n    keep: { a_very_long_name_to_keep: $.arrivals }\n    expect:\n      - length($.arrivals) >= 1000 && $.day == "2026-05-23"\n',
    );
    const { out } = await place.run(['run', 'a.chain.yaml'], { columns: 80 });
    expect(out.split('\n').filter((line) => line.length > 80)).toEqual([]);
  });

  test('the demo takes its tour on a free port', async () => {
    const { status, out } = await folder().run(['demo']);
    expect(status).toBe(0);
    expect(out).toContain('What to try next');
    expect(out).not.toContain('\u001b');
  });

  test('demo --serve leaves a project that works while it is open', async () => {
    const place = folder();
    let done = false;
    const serving = place.run(['demo', '--serve', '--port', '0'], { until: () => done });
    const isServed = () => place.has('harbour/secrets.env');
    while (!isServed()) await new Promise((resolve) => setTimeout(resolve, 20));
    const ran = await place.run(['run', 'chains/berth.chain.yaml'], { within: 'harbour' });
    const checked = await place.run(['check'], { within: 'harbour' });
    done = true;
    expect((await serving).status).toBe(0);
    expect([ran.status, ran.err, checked.status]).toEqual([0, '', 0]);
  });
});
