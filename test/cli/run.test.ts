import { projectFile, SECRETS, TOKEN, KEY, useHarbour } from '../support/harbour.ts';
import { useFolders, type Folder } from '../support/program.ts';

const harbour = useHarbour();
const folder = useFolders();
const project = (chains: Readonly<Record<string, string>>): Folder =>
  folder({ 'batharon.yaml': projectFile(harbour()), 'secrets.env': SECRETS, ...chains });

const CHAIN = `
name: berth-for-arrival
api: harbour
inputs:
  day: { type: date, default: "2026-05-23", about: the day of arrival }
  flag: { type: string, optional: true }
steps:
  - call: arrivals
    request: GET /arrivals{?day,flag}
    expect: [status == 200, length($.arrivals) >= 1]
    keep: { due: "$.arrivals[?@.state == 'expected']" }
  - call: vessel
    request: GET /vessels/{due[0].vessel}
    expect:
      - $.id == due[0].vessel
    keep: { draught: $.draught, vessel: $ }
  - call: berths
    request: GET /berths
    keep: { free: "$.berths[?@.taken_by == null && @.depth > draught]" }
  - call: reserve
    request: POST /berths/{free[0].id}/reservations
    json: { vessel: "{vessel.id}", draught: "{draught}", note: "due {day}", flag: "{flag}" }
    expect: [status == 201, $.vessel == vessel.id, $.draught == draught]
    keep: { reservation: $.reservation }
outputs: { reservation: reservation, free: length(free) }
`;

describe('a chain of requests', () => {
  test('takes values of one response into the next request, and gives what it says', async () => {
    const place = project({ 'a.chain.yaml': CHAIN });
    const { status, out, err } = await place.run(['run', 'a.chain.yaml', '--out', 'given.json']);
    expect([status, err]).toEqual([0, '']);
    expect(out).toMatch(/^berth-for-arrival {3}harbour at sandbox {3}run \d{4}-\d{4}-\w\w$/m);
    expect(out).toMatch(/^ 1 {5}arrivals +GET \/arrivals\?day=2026-05-23 +200 +[\d.]+ m?s {3}due: \d items?$/m);
    expect(out).toMatch(/^ 2 {5}vessel +GET \/vessels\/[A-Z]{2}%20\d+%2F\d +200/m);
    expect(out).toMatch(/^passed {3}4 calls, 8 expectations; /m);
    expect(JSON.parse(place.read('given.json'))).toMatchObject({ reservation: expect.stringMatching(/^R-/) as string });
  });

  test('more may begin at once than the api takes at once: they wait, and nobody complains', async () => {
    const steps = '\n    concurrency: 40\n    steps:\n      - { call: berth, request: GET /berths/N1 }\n';
    const place = project({ 'wide.chain.yaml': `api: harbour\nsteps:\n  - each: n in range(60)${steps}` });
    const ran = await place.run(['run', 'wide.chain.yaml']);
    const foreseen = await place.run(['forecast', 'wide.chain.yaml']);
    expect([ran.status, ran.err, foreseen.status, foreseen.err]).toEqual([0, '', 0, '']);
    expect(ran.out).toContain('60 calls');
  });

  test('--out - leaves standard output to the data', async () => {
    const { status, out, err } = await project({ 'a.chain.yaml': CHAIN }).run(['run', 'a.chain.yaml', '--out', '-']);
    expect(status).toBe(0);
    expect(Object.keys(JSON.parse(out) as object)).toEqual(['reservation', 'free']);
    expect(err).toContain('4 calls');
  });

  test('what is recorded says the same as what was shown', async () => {
    const place = project({ 'a.chain.yaml': CHAIN });
    await place.run(['run', 'a.chain.yaml']);
    const [events] = place.journals();
    expect(events!.map(({ type }) => type)).toEqual([
      'run',
      ...Array.from({ length: 4 }, () => ['sent', 'answered', 'ended']).flat(),
      'finished',
    ]);
    expect(events!.map(({ seq }) => seq)).toEqual(events!.map((_, i) => i + 1));
    expect(events![0]).toMatchObject({
      v: 2,
      name: 'berth-for-arrival',
      apis: [{ name: 'harbour', deployment: 'sandbox', url: `${harbour().url}/v1` }],
    });
    expect(events!.find(({ type, x }) => type === 'sent' && x === 4)).toMatchObject({
      step: '4/reserve',
      repeatable: false,
      changing: true,
      flushed: true,
    });
    expect(events!.find(({ type, step }) => type === 'ended' && step === '2/vessel')).toMatchObject({
      outcome: 'passed',
      binds: [
        { name: 'draught', text: '$.draught', source: { file: 'a.chain.yaml' } },
        { name: 'vessel', reads: [{ name: '$' }] },
      ],
    });
  });

  test('--at chooses where; an unknown place is refused before anything is sent', async () => {
    const place = project({ 'a.chain.yaml': CHAIN });
    expect((await place.run(['run', 'a.chain.yaml', '--at', 'live'])).all).toContain('harbour at live');
    expect((await place.run(['run', 'a.chain.yaml'], { env: { BATHARON_AT: 'live' } })).all).toContain(
      'harbour at live',
    );
    const { status, err } = await place.run(['run', 'a.chain.yaml', '--at', 'harbour=lvie']);
    expect([status, err]).toEqual([
      2,
      'error unknown-deployment: The API "harbour" has no deployment "lvie"\n  Did you mean "live"?\n',
    ]);
  });

  test('an api key goes where the API wants it', async () => {
    const chain = 'api: watch\nsteps:\n  - call: level\n    request: GET /water\n    expect: [$.level_cm == 142]\n';
    expect((await project({ 'a.chain.yaml': chain }).run(['run', 'a.chain.yaml'])).status).toBe(0);
    const without = chain.replace('    expect', '    auth: none\n    expect');
    expect((await project({ 'a.chain.yaml': without }).run(['run', 'a.chain.yaml'])).all).toContain(
      'The header Harbour-Key',
    );
  });
});

describe('inputs', () => {
  const input = (text: string) =>
    project({ 'a.chain.yaml': `api: harbour\ninputs: ${text}\nsteps:\n  - call: one\n    request: GET /arrivals\n` });
  const rows: readonly (readonly [inputs: string, args: readonly string[], told: string])[] = [
    [
      '{ n: integer, day: { type: date, about: the day } }',
      [],
      'input-missing: 2 inputs are missing: n, day (the day)',
    ],
    ['{ n: integer }', ['--input', 'n=1.5'], `input-wrong: The input "n" takes a whole number, not '1.5'`],
    ['{ d: date }', ['--input', 'd=2026-02-30'], 'input-wrong'],
    ['{ b: boolean }', ['--input', 'b=yes'], 'input-wrong: The input "b" takes true or false'],
    ['{ n: { type: number, default: "x" } }', [], 'input-wrong: The default of "n"'],
    ['{ name: string }', ['--input', 'nmae=x', '--input', 'name=y'], 'Did you mean "name"?'],
    ['{ name: string }', ['--input', 'name'], '--input needs NAME=VALUE'],
  ];
  test.each(rows)('%s given %j', async (inputs, args, told) => {
    const place = input(inputs);
    const { status, err } = await place.run(['run', 'a.chain.yaml', ...args]);
    expect(status).toBe(2);
    expect(err).toContain(told);
    expect(place.journals()).toEqual([]);
  });
});

describe('a run that fails', () => {
  const failing = (...lines: readonly string[]) => `
api: harbour
inputs: { vessel: { type: string, default: SV 152/1 } }
steps:
  - call: vessel
    request: GET /vessels/{vessel}
    keep: { draught: $.draught }
  - call: berth
    request: GET /berths/N1
${lines.map((line) => `    ${line}\n`).join('')}`;

  test('shows what was there, where it came from, and what comes near', async () => {
    const place = project({
      'a.chain.yaml': failing('expect:', '  - $.depth > draught', "  - $.berth.quay == 'N'", '  - $.id == vessel'),
    });
    const { status, out } = await place.run(['run', 'a.chain.yaml']);
    expect(status).toBe(1);
    expect(out).toContain('failed  berth   a.chain.yaml:11');
    expect(out).toMatch(
      /\$\.depth > draught {3}is false\n +\$\.depth +6\.5\n +draught +8\.9, kept by vessel from \$\.draught\n/,
    );
    expect(out).toContain('$.berth.quay found nothing: $ is an object with id, name, quay, depth, taken_by. $.quay is');
    expect(out).toMatch(/vessel +'SV 152\/1', an input/);
    expect(out).toContain('"name": "North quay 1"');
    expect(out).toContain('batharon look berth');
    expect(out).toContain('1 of 2 calls, 3 of 5 expectations');
  });

  test.each([
    ['unexpected status', ['keep: { a: $.a }'], '/berths/N1', '/berths/Q9', 'The status is 404, expected 2xx', 1],
    [
      'a keep that finds nothing',
      ['keep: { deep: $.dpeth }'],
      '',
      '',
      '$.dpeth found nothing: $ is an object with id, name, quay',
      1,
    ],
    ['a placeholder that is nothing', ['query: { a: "{draught.x}" }'], '', '', 'draught.x found nothing', 1],
    ['a value that no header has', ['headers: { X-A: "{vessel + \'\\\\n\'}" }'], '', '', 'line break', 1],
    ['a segment that is no segment', [], '/berths/N1', '/berths/{".."}', 'a path segment "." or ".."', 1],
  ])('%s', async (_name, lines, from, to, told, status) => {
    const place = project({ 'a.chain.yaml': failing(...lines).replace(from, to) });
    const result = await place.run(
      ['run', 'a.chain.yaml', '--input', 'vessel=SV 152/1'].slice(0, from.includes('}') ? 2 : 4),
    );
    expect(result.out.replace(/\s+/g, ' ')).toContain(told);
    expect(result.status).toBe(status);
  });

  test('an all(...) names the items that broke it, and a comparison of two kinds says so', async () => {
    const lines = [
      'expect:',
      '  - { that: "all($.berths, @.depth > limit)", because: larger vessels ground }',
      "  - $.berths[0].depth == '6.5'",
      '  - all($.berths[?@.quay == "Q"], @.depth > 1)',
    ];
    const chain = `api: harbour\ninputs: { limit: { type: number, default: 7.0 } }\nsteps:\n  - call: berths\n    request: GET /berths\n${lines.map((line) => `    ${line}\n`).join('')}`;
    const { out } = await project({ 'a.chain.yaml': chain }).run(['run', 'a.chain.yaml']);
    expect(out).toMatch(
      /limit +7\.0, an input\n +false for +\d of \d+ items\n +\$\.berths\[\d\] +@\.depth is [\d.]+\n/,
    );
    expect(out).toContain('because larger vessels ground');
    expect(out).toContain("6.5 is a number, '6.5' is a string");
    expect(out).toMatch(
      /warning nothing-to-check: all\(\$\.berths\[\?@\.quay == "Q"\], @\.depth > 1\) is true only because the\s+array is empty/,
    );
  });

  test('a token that is not valid, and a body that is none of JSON', async () => {
    const place = project({ 'a.chain.yaml': failing() });
    const { out, status } = await place.run(['run', 'a.chain.yaml'], { env: { HARBOUR_TOKEN: 'not-the-token' } });
    expect(status).toBe(1);
    expect(out).toMatch(/The token is not\s+valid\./);
  });
});

test('secrets are masked in everything that leaves, however they come back', async () => {
  const chain = `
api: harbour
steps:
  - call: vessel
    request: GET /vessels/{secret.HARBOUR_TOKEN}
    headers: { X-Key: "a {secret.HARBOUR_KEY}" }
    expect: [status == 404, $.detail == secret.HARBOUR_TOKEN]
`;
  const place = project({ 'a.chain.yaml': chain });
  place.write('batharon.yaml', `secrets: { HARBOUR_KEY: [harbour] }\n${projectFile(harbour())}`);
  const ran = await place.run(['run', 'a.chain.yaml', '--out', 'given.json']);
  const looked = await place.run(['look']);
  const valued = await place.run(['value', '$.detail']);
  const sent = await place.run(['send', 'GET', `/vessels/${TOKEN}`, '--api', 'harbour']);
  expect([ran.status, looked.status, valued.status, sent.status]).toEqual([1, 0, 0, 1]);
  expect(looked.out).toContain('/v1/vessels/‹HARBOUR_TOKEN›');
  expect(looked.out).toContain('X-Key: a ‹HARBOUR_KEY›');
  expect(valued.out).toBe('There is no vessel "‹HARBOUR_TOKEN›".\n');
  const left = [
    ran.all,
    looked.all,
    valued.all,
    sent.all,
    ...place
      .all()
      .filter(([name]) => name !== 'secrets.env')
      .map(([, text]) => text),
  ].join('\n');
  for (const secret of [TOKEN, KEY]) {
    for (const form of [secret, encodeURIComponent(secret), Buffer.from(secret).toString('base64').slice(0, -4)])
      expect(left).not.toContain(form);
  }
});

test('missing secrets are told together, before anything is sent', async () => {
  const place = folder({ 'batharon.yaml': projectFile(harbour()), 'a.chain.yaml': CHAIN });
  const { status, err } = await place.run(['run', 'a.chain.yaml']);
  expect(status).toBe(2);
  expect(err).toContain('The secret HARBOUR_TOKEN was not found in the environment or secrets.env');
  expect(place.journals()).toEqual([]);
});

test('what a run left is private to its owner', async () => {
  const place = project({ 'a.chain.yaml': CHAIN });
  await place.run(['run', 'a.chain.yaml']);
  expect(place.read('.batharon/.gitignore')).toBe('*\n');
  expect(place.all().filter(([name]) => name.includes('run.lock'))).toEqual([]);
});

test('a key in the query is masked by its name, whatever it is', async () => {
  const projectText = `apis: { bad: { url: "${harbour().url}/v1", auth: { api-key: { query: key, value: plainly-written } } } }\n`;
  const place = folder({
    'batharon.yaml': projectText,
    'a.chain.yaml': 'steps:\n  - call: one\n    request: GET /vessels?a=1\n',
  });
  await place.run(['run', 'a.chain.yaml']);
  expect(place.journals()[0]![1]).toMatchObject({ request: { url: `${harbour().url}/v1/vessels?a=1&key=‹key›` } });
});

test('lines may end in CR LF, and a record that cannot be written is told as what it is', async () => {
  const place = project({
    'a.chain.yaml':
      'api: harbour\r\nsteps:\r\n  - call: one\r\n    request: GET /vessels\r\n    expect:\r\n      - length($.vessels) > 1\r\n',
  });
  expect((await place.run(['run', 'a.chain.yaml'])).status).toBe(0);
  const blocked = project({ 'a.chain.yaml': CHAIN, '.batharon': 'a file' });
  const { status, err } = await blocked.run(['run', 'a.chain.yaml']);
  expect([status, err]).toEqual([2, expect.stringContaining('error not-writable: The system refused to')]);
});

test('let computes, say tells, and a secret in either stays masked', async () => {
  const chain = `api: harbour
inputs: { add: { type: number, default: 0.5 } }
steps:
  - call: berth
    request: GET /berths/N1
    keep: { depth: $.depth }
  - let: { wanted: depth + add, key: secret.HARBOUR_TOKEN + 'x' }
  - say: "{wanted} m, {key}"
  - let: { gone: first(range(0)) }
outputs: [wanted, key]
`;
  const place = project({ 'a.chain.yaml': chain });
  const { status, out } = await place.run(['run', 'a.chain.yaml', '--out', 'given.json']);
  expect(status).toBe(1);
  expect(out).toMatch(/^ 2 {5}let +wanted: 7, key: ‹HARBOUR_TOKEN›$/m);
  expect(out).toMatch(/^ 3 {5}7 m, ‹HARBOUR_TOKEN›$/m);
  expect(out).toContain('found-nothing: first(range(0)) found nothing');
  expect(JSON.parse(place.read('given.json'))).toEqual({ wanted: 7, key: '‹HARBOUR_TOKEN›' });
});
