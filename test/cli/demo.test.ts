import { useDemo } from '../support/harbour.ts';
import { testWith } from '../support/needs.ts';
import { inTerminal } from '../support/program.ts';

const demo = useDemo();

/** Every chain of the demo, the exit status with which it is meant to end, and words that stand in its output. */
test.each([
  [
    'arrivals',
    1,
    /14 items, 5 failed {3}fit: 9 items/,
    /5 items failed in the same way: 3-4, 7, 10-11/,
    /wrote {3}out\/arrivals\.csv {3}9 rows/,
  ],
  ['cargo', 0, /500 cargoes under 5 flags, the heaviest has 409\.88 t/, /wrote {3}out\/cargo\.csv {3}500 rows/],
  [
    'clearance',
    1,
    /5 items, 2 failed {3}settled: 3 items/,
    /\$\.state +'refused' after queued, inspecting/,
    /c1 +close-day +POST \/days\/2026-05-24\/close +204/,
    /of it\s+waiting \(poll/,
  ],
  ['harbour-day', 0, /1 +chain +berth: '[NSW]\d'/],
  ['new-berth', 0, /u1 +create +DELETE \/berths\/S\d +204/, /berth S\d: passed/],
  ['notice', 0, /3 +receive +POST received/],
  ['papers', 0, /7 calls, 14 expectations; 10 requests/],
  ['pilots', 0, /24 items {3}duty: 24 items/, /of it waiting \(server/],
  ['quay', 0, /passed/],
  ['sign-in', 0, /session: ‹session›/],
  ['too-deep', 1, /is false/],
  ['water', 0, /passed/],
  ['weather', 0, /3 attempts/, /1 call needed several attempts/],
])('%s', async (name, status, ...words) => {
  const run = await demo().run(['run', `chains/${name}.chain.yaml`]);
  for (const each of words) expect(run.all).toMatch(each as RegExp);
  expect(run.status).toBe(status);
});

test('a part of a loop: the first items, or some spread over it; both is one too many', async () => {
  const folder = demo();
  const first = await folder.run(['run', 'chains/cargo.chain.yaml', '--first', '3']);
  expect(first.all).toMatch(/3 of 500 items {3}by_flag: 3 items/);
  expect(folder.read('out/cargo.csv').split('\n')).toHaveLength(5);
  const sample = await folder.run(['run', 'chains/cargo.chain.yaml', '--sample', '2']);
  expect(sample.all).toMatch(/2 of 500 items/);
  const both = await folder.run(['run', 'chains/cargo.chain.yaml', '--sample', '2', '--first', '1']);
  expect([both.status, both.all.includes('one is enough')]).toEqual([2, true]);
});

test('what a run that passed remembers, the next one reads', async () => {
  const folder = demo();
  folder.write(
    'chains/memo.chain.yaml',
    `api: harbour\ninputs: { least: { type: integer, default: 1 } }\nsteps:\n  - call: arrivals\n    request: GET /arrivals\n    expect: [$.total >= least]\n    keep: { total: $.total }\n  - say: "last time {remembered.total ?? 'nothing'}"\n  - remember: { total: total + 1 }\n`,
  );
  const said = async (...args: readonly string[]) => (await folder.run(['run', 'chains/memo.chain.yaml', ...args])).all;
  expect(await said('--input', 'least=100')).toContain('failed');
  expect(await said()).toContain('last time nothing');
  expect(await said()).toContain('last time 31');
});

test('one token serves many calls at the same time', async () => {
  const folder = demo();
  folder.write(
    'chains/dues.chain.yaml',
    'api: office\nsteps:\n  - each: n in range(12)\n    concurrency: 6\n    steps:\n      - call: dues\n        request: GET /dues\n',
  );
  expect((await folder.run(['run', 'chains/dues.chain.yaml'])).all).toContain('12 calls, 12 expectations; 13 requests');
});

test('callbacks that come before anybody waits, others than the one that is meant, and none at all', async () => {
  const folder = demo();
  const chain = (more: string) =>
    `api: harbour\nsteps:\n  - listen: notice\n  - call: ask\n    request: POST /notices\n    json: { vessel: x, callback: "{notice.url}?from=harbour" }\n  - wait: 300ms\n${more}`;
  folder.write(
    'chains/early.chain.yaml',
    chain(
      `  - receive: notice\n    until: $.state == 'moored'\n    respond: { status: 201, text: "got {query.from}" }\n    expect: ["method == 'POST'"]\n    keep: { vessel: $.vessel, from: query.from }\noutputs: [vessel, from]\n`,
    ),
  );
  folder.write(
    'chains/never.chain.yaml',
    chain(`  - receive: notice\n    until: $.state == 'gone'\n    within: 100ms\n`),
  );
  const early = await folder.run(['run', 'chains/early.chain.yaml', '--out', '-']);
  expect(JSON.parse(early.out)).toEqual({ vessel: 'x', from: 'harbour' });
  const answered = folder
    .journals()[0]!
    .filter(({ type }) => type === 'called-back')
    .map((event) => event['answered']);
  expect(answered).toEqual([202, 201]);
  const never = await folder.run(['run', 'chains/never.chain.yaml']);
  expect(never.status).toBe(1);
  expect(never.all.replace(/\s+/g, ' ')).toContain(
    '2 callbacks came by the time limit of 100 ms, and none made until true',
  );
  expect(never.all).toMatch(/\$\.state +'moored'/);
});

testWith(['script'], 'on a terminal a loop is a line that moves, and what is said stands above it', async () => {
  const screen = await inTerminal(demo(), ['run', 'chains/cargo.chain.yaml'], []);
  expect(screen).toMatch(/ 1 {7}row in cargo {3}\u2588*\u2591+ {3}[\d]+ of 500\s+8 in flight/);
  expect(screen).toMatch(/\u001b\[J\u001b\[\?25h 1 +each +row in cargo {3}500 items/);
});
