import { statSync } from 'node:fs';
import path from 'node:path';
import { projectFile, SECRETS, useHarbour } from '../support/harbour.ts';
import { testWith } from '../support/needs.ts';
import { inTerminal, useFolders } from '../support/program.ts';

const harbour = useHarbour();
const folderWith = useFolders();

const project = (files: Readonly<Record<string, string>>) =>
  folderWith({ 'batharon.yaml': projectFile(harbour()), 'secrets.env': SECRETS, ...files });

describe('check --fix', () => {
  const text = `# the berths of a quay
api: harbour
inputs: { quay: { type: string, default: "N" } }
steps:
  - call: berths
    request: GET /berths{?quay}   # the quay is an input
    expect:
      - !exists($.error)
      - all($.berths, @.note == 'x: y')
    keep: { first: $.berths[0], n: length($.berths) }
  - let:
      again: "{n}"
  - say: "{again} {first}"
`;

  test('writes what leaves no doubt, keeps the rest of the file, and tells what is left', async () => {
    const place = project({ 'chains/a.chain.yaml': text });
    expect((await place.run(['check'])).status).toBe(2);
    const { status, out, err } = await place.run(['check', '--fix']);
    expect(err).toContain('corrected  chains/a.chain.yaml');
    expect([status, out]).toEqual([0, 'no problems found in 1 chain and the project file\n']);
    expect(place.read('chains/a.chain.yaml')).toBe(
      text
        .replace('!exists($.error)', '"!exists($.error)"')
        .replace("- all($.berths, @.note == 'x: y')", '- "all($.berths, @.note == \'x: y\')"')
        .replace('{ first: $.berths[0], n: length($.berths) }', '{ first: "$.berths[0]", n: length($.berths) }')
        .replace('again: "{n}"', 'again: "n"'),
    );
  });

  test('changes nothing that could be meant in two ways', async () => {
    const doubtful = 'api: harbour\nsteps:\n  - call: a\n    request: GET /a\n    keep: { next: $.next-cursor }\n';
    const place = project({ 'a.chain.yaml': doubtful });
    const { status, out } = await place.run(['check', 'a.chain.yaml', '--fix']);
    expect([status, place.read('a.chain.yaml')]).toEqual([2, doubtful]);
    expect(out).toContain('    5 >     keep: { next: "$[\'next-cursor\']" }');
  });
});

test('check --as sarif prints a log that names file, place and rule', async () => {
  const place = project({ 'a b.chain.yaml': 'api: harbour\nsteps:\n  - say: "{vesel}"\n' });
  const { out, status } = await place.run(['check', 'a b.chain.yaml', '--as', 'sarif']);
  expect(status).toBe(2);
  expect(JSON.parse(out)).toMatchObject({
    version: '2.1.0',
    runs: [
      {
        results: [
          {
            ruleId: 'unknown-name',
            locations: [
              {
                physicalLocation: {
                  artifactLocation: { uri: 'a%20b.chain.yaml' },
                  region: { startLine: 3, startColumn: 12 },
                },
              },
            ],
          },
        ],
      },
    ],
  });
});

test('check shows at most fifty problems, and how many more there are', async () => {
  const place = project({ 'a.chain.yaml': `api: harbour\nsteps:\n${'  - say: "{vesel}"\n'.repeat(60)}` });
  const { out } = await place.run(['check', 'a.chain.yaml']);
  expect(out.match(/^error/gm)).toHaveLength(50);
  expect(out).toContain('and 10 more');
  expect(out).toContain('60 errors');
});

describe('new', () => {
  test('makes a project that check finds in order once the token is there', async () => {
    const place = folderWith();
    const { out, status } = await place.run(['new', 'port', '--api', 'quays', '--url', `${harbour().url}/v1`]);
    expect(status).toBe(0);
    expect(out).toContain('created  port/batharon.yaml');
    expect(statSync(path.join(place.path, 'port/secrets.env')).mode & 0o077).toBe(0);
    expect(place.read('port/chains/first.chain.yaml')).toContain(
      '# yaml-language-server: $schema=../schemas/chain.schema.json',
    );
    expect(JSON.parse(place.read('port/schemas/chain.schema.json'))).toHaveProperty('$defs.step');
    place.write('port/secrets.env', 'QUAYS_TOKEN=kvitnes-token-1\n');
    expect(await place.run(['check'], { within: 'port' })).toMatchObject({ status: 0 });
  });

  test.each([
    [['new', '.', '--api', 'my-api'], 'invalid-name'],
    [['new', '.', '--url', 'harbour.example'], 'invalid-target'],
  ])('%j is refused', async (args, code) => {
    const place = folderWith();
    const { err, status } = await place.run(args);
    expect([status, err]).toEqual([2, expect.stringContaining(`error ${code}`)]);
  });

  test('touches no project that is there', async () => {
    const place = project({});
    const before = place.read('batharon.yaml');
    expect((await place.run(['new'])).status).toBe(2);
    expect(place.read('batharon.yaml')).toBe(before);
  });
});

describe('about', () => {
  const place = folderWith();
  test.each([
    ['keep', 'a mapping from names, each to an expression'],
    ['sorted', 'sorted(array, [by])'],
    ['filter', 'filtered(array, condition)'],
    ['needs-quotes', 'YAML gives the characters'],
  ])('%s', async (topic, expected) => {
    const { out, status } = await place.run(['about', topic]);
    expect([status, out]).toEqual([0, expect.stringContaining(expected)]);
  });
  test('lists all topics, in lines that fit', async () => {
    const { out } = await place.run(['about'], { columns: 80 });
    for (const topic of ['keep', 'date_time', 'maybe-missing']) expect(out).toContain(topic);
    expect(Math.max(...out.split('\n').map((line) => line.length))).toBeLessThanOrEqual(80);
  });
  test('offers the nearest topic', async () => {
    expect(await place.run(['about', 'sortd'])).toMatchObject({
      status: 2,
      err: expect.stringContaining('Did you mean "sorted"?'),
    });
  });
});

test('schema prints one for each file, and one for both', async () => {
  const place = folderWith();
  const titles = await Promise.all(
    ['chain', 'project', ''].map(
      async (kind) =>
        JSON.parse((await place.run(['editor-schema', ...(kind ? [kind] : [])])).out) as { title: string },
    ),
  );
  expect(titles.map(({ title }) => title)).toEqual(['Batharon chain file', 'Batharon project file', 'Batharon file']);
});

describe('inputs', () => {
  const chain = `inputs:
  day: { type: date, about: the day }
  quay: { type: string, choices: [N, S] }
  pin: secret
  note: { type: string, optional: true }
steps:
  - let: { told: "'pin ' + pin" }
  - say: "{day} {quay} {note ?? 'no note'}"
outputs: { day: day, quay: quay, note: note }
`;

  testWith(['script'], 'are asked for on a terminal, again until they fit; a secret is not seen', async () => {
    const place = project({ 'a.chain.yaml': chain });
    const screen = await inTerminal(
      place,
      ['run', 'a.chain.yaml'],
      [
        ['? day', '2026-05-23'],
        ['? quay', ''],
        ['? pin', 'hush-hush-1'],
      ],
    );
    expect(screen).toContain('day (the day)');
    expect(screen).toContain('2026-05-23 N no note');
    expect(screen).not.toContain('hush-hush-1');
    expect(
      place
        .all()
        .map(([, text]) => text)
        .join(),
    ).not.toContain('hush-hush-1');
  });

  test('come from a file, from files of their own, and from standard input', async () => {
    const place = project({
      'a.chain.yaml': chain,
      'in.yaml': 'day: 2026-05-23\nquay: S\n',
      'pin.txt': 'hush-hush-2\n',
    });
    const args = [
      'run',
      'a.chain.yaml',
      '--inputs-from',
      'in.yaml',
      '--input',
      'pin=@pin.txt',
      '--input',
      'note=@-',
      '--out',
      '-',
    ];
    const { out, status } = await place.run(args, { input: 'from the mole' });
    expect(status).toBe(0);
    expect(JSON.parse(out)).toEqual({ day: '2026-05-23', quay: 'S', note: 'from the mole' });
  });

  test('that are missing are an error without a terminal', async () => {
    const place = project({ 'a.chain.yaml': chain });
    const { err, status } = await place.run(['run', 'a.chain.yaml']);
    expect([status, err]).toEqual([2, expect.stringContaining('3 inputs are missing: day (the day), quay, pin')]);
  });

  test('an @ is written twice for itself', async () => {
    const place = project({ 'a.chain.yaml': 'inputs: { x: string }\nsteps:\n  - say: "<{x}>"\n' });
    expect((await place.run(['run', 'a.chain.yaml', '--input', 'x=@@mole'])).out).toContain('<@mole>');
  });

  test('files are read where they were named, and nowhere else outside the project', async () => {
    const other = folderWith({ 'outside.txt': 'from outside' });
    const file = path.join(other.path, 'outside.txt');
    const place = project({
      'a.chain.yaml': 'inputs: { notes: file }\nsteps:\n  - say: "{read_file(notes)}"\n',
      'b.chain.yaml': `steps:\n  - let:\n      x: read_file('${file}')\n  - say: "{x}"\n`,
    });
    expect((await place.run(['run', 'a.chain.yaml', '--input', `notes=${file}`])).out).toContain('from outside');
    const { err, status } = await place.run(['run', 'b.chain.yaml']);
    expect([status, err]).toEqual([2, expect.stringContaining('outside the project')]);
  });
});

test('the clock and the seed of a run can be set, and are recorded', async () => {
  const place = project({ 'a.chain.yaml': 'steps:\n  - let: { id: uuid(), day: today() }\noutputs: [id, day]\n' });
  const args = ['run', 'a.chain.yaml', '--seed', 'quay', '--now', '2026-05-23T12:00:00Z', '--out', '-'];
  const [one, two] = [await place.run(args), await place.run(args)];
  expect(one.out).toBe(two.out);
  expect(JSON.parse(one.out)).toMatchObject({ day: '2026-05-23' });
  expect(place.journals()[0]![0]).toMatchObject({
    type: 'run',
    seed: 'quay',
    now: '2026-05-23T12:00:00Z',
    zone: 'UTC',
  });
  expect((await place.run(['run', 'a.chain.yaml', '--now', 'noon'])).err).toContain('--now needs a date-time');
});
