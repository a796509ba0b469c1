import { cpSync, readdirSync } from 'node:fs';
import { useCounting } from '../support/counting.ts';
import { describeWith, testWith } from '../support/needs.ts';
import { eventsIn, type Folder } from '../support/program.ts';
import { startRedis, type TestRedis } from '../support/redis.ts';

const { counting, projectWith } = useCounting();

const LOOP = `inputs: { list: json }
steps:
  - call: begin
    once: first-slice
    request: POST /begin
  - each: vessel in list
    identified-by: vessel.id
    concurrency: 3
    steps:
      - call: make
        request: POST /make/{vessel.id}
  - call: end
    once: last-slice
    request: POST /end
`;

const vessels = Array.from({ length: 40 }, (_, i) => ({ id: `KM-${i}`, note: i % 3 }));
const listed = (list: readonly object[]) => `list=${JSON.stringify(list)}`;
const made = () => counting.posts.filter((url) => url.startsWith('/make/')).sort();
const all = vessels.map(({ id }) => `/make/${id}`).sort();

test('slices do each item once, whatever order the list has on each machine', async () => {
  const counts: number[] = [];
  for (const part of [1, 2, 3, 4, 5]) {
    const before = counting.posts.length;
    const list = [...vessels].sort((a, b) => (a.id.length * part - b.id.length) * (part % 2 ? 1 : -1));
    const run = await projectWith(LOOP).run(['run', 'c.chain.yaml', '--slice', `${part}/5`, '--input', listed(list)]);
    expect([run.status, run.all]).toEqual([0, expect.stringContaining(`slice ${part}/5`)]);
    counts.push(counting.posts.length - before);
  }
  expect(made()).toEqual(all);
  expect(counting.posts.filter((url) => url === '/begin')).toHaveLength(1);
  // Nobody has said which slice is the last one.
  expect(counting.posts).not.toContain('/end');
  for (const count of counts) expect(count).toBeGreaterThan(2);
});

test('a slice that was stopped goes on with its own items, and the last one does what is left to it', async () => {
  const folder = projectWith(LOOP);
  const slice = ['run', 'c.chain.yaml', '--slice', '2/2', '--last', '--input', listed(vessels)];
  await folder.run(slice, { signal: 'SIGKILL', until: () => counting.posts.length >= 4 });
  const resumed = await folder.run(['resume', '--not-sent', 'all', '--last']);
  const total = /(\d+) calls done.* (\d+) to send/s.exec(resumed.all)!.slice(1).map(Number);
  await projectWith(LOOP).run(['run', 'c.chain.yaml', '--slice', '1/2', '--input', listed(vessels)]);
  expect([resumed.status, new Set(made()).size]).toEqual([0, 40]);
  // What the plan says to send are the items of the slice, and the step of the last one.
  expect(total[0]! + total[1]!).toBeLessThan(40);
  expect(counting.posts.filter((url) => url === '/end')).toHaveLength(1);
});

test.each<[string, string, RegExp]>([
  ['a call that changes something outside of the loop', LOOP.replace('    once: first-slice\n', ''), /"begin" changes/],
  ['a cleanup that does', `${LOOP}cleanup:\n  - call: gone\n    request: DELETE /gone\n`, /"gone" changes/],
  [
    'an undo that does',
    LOOP.replace('POST /begin', 'GET /begin\n    undo: DELETE /begin').replace('    once: first-slice\n', ''),
    /"begin" has an undo/,
  ],
  ['no loop', 'steps:\n  - call: list\n    request: GET /list\n', /no loop whose items/],
])('%s is refused before anything is sent', async (_what, chain, says) => {
  const given = chain.includes('list: json') ? ['--input', listed(vessels)] : [];
  const run = await projectWith(chain).run(['run', 'c.chain.yaml', '--slice', '1/2', ...given]);
  expect([run.status, run.all.includes('not-divisible')]).toEqual([2, true]);
  expect(run.all).toMatch(says);
  expect(counting.posts).toEqual([]);
});

describeWith(['redis-server'], 'slices that machines take', () => {
  let redis: TestRedis;
  beforeEach(async () => void (redis = await startRedis()));
  afterEach(() => redis.close());

  const options = (more = {}) => ({ env: { BATHARON_REDIS: redis.url }, ...more });
  const taking = ['run', 'c.chain.yaml', '--slices', '6', '--input', listed(vessels)];
  const slicesOf = async (folder: Folder) => {
    const [division] = JSON.parse((await folder.run(['slices', '--as', 'json'], options())).out) as {
      slices: { part: number; state: string; run?: string }[];
    }[];
    return division!.slices;
  };

  test('three machines take them all, each once, and a fourth finds none left', async () => {
    const machines = [1, 2, 3].map(() => projectWith(LOOP));
    const runs = await Promise.all(machines.map((folder) => folder.run(taking, options())));
    expect(runs.map(({ status }) => status)).toEqual([0, 0, 0]);
    expect(made()).toEqual(all);
    for (const once of ['/begin', '/end']) expect(counting.posts.filter((url) => url === once)).toHaveLength(1);
    expect((await slicesOf(machines[0]!)).map(({ state }) => state)).toEqual(Array(6).fill('done'));
    const late = await projectWith(LOOP).run(taking, options());
    expect([late.status, late.all]).toEqual([0, expect.stringContaining('No slice of 6 is left')]);
    expect(made()).toEqual(all);
  });

  test('a slice of a machine that was killed stays with its record, which does the rest of it', async () => {
    const folder = projectWith(LOOP);
    await folder.run(taking, options({ signal: 'SIGKILL', until: () => counting.posts.length >= 3 }));
    const other = projectWith(LOOP);
    expect((await other.run(taking, options())).status).toBe(0);
    const [open] = (await slicesOf(folder)).filter(({ state }) => state === 'under way');
    const told = await other.run(['slices'], options());
    expect(told.all).toMatch(new RegExp(`under way +1\n +slice ${open!.part} on machine`));
    const elsewhere = await other.run(['slices', 'release', String(open!.part)], options());
    expect([elsewhere.status, elsewhere.all]).toEqual([2, expect.stringContaining('is on another machine')]);
    expect((await folder.run(['resume', '--not-sent', 'all'], options())).status).toBe(0);
    expect((await slicesOf(folder)).every(({ state }) => state === 'done')).toBe(true);
    expect([...new Set(made())]).toEqual(all);
    expect(counting.posts.filter((url) => url === '/end')).toHaveLength(1);
  });

  test('a slice that was given up is told with what was done in it, and its record does not go on', async () => {
    const folder = projectWith(LOOP);
    await folder.run(taking, options({ signal: 'SIGKILL', until: () => counting.posts.length >= 3 }));
    const [open] = (await slicesOf(folder)).filter(({ state }) => state === 'under way');
    const released = await folder.run(['slices', 'release', String(open!.part)], options());
    expect(released.all).toMatch(/is free\.\n.*done in run .*does all of them again/);
    const resumed = await folder.run(['resume', open!.run!, '--not-sent', 'all'], options());
    expect([resumed.status, resumed.all]).toEqual([2, expect.stringContaining('was given up')]);
    expect((await folder.run(taking, options())).status).toBe(0);
    expect(eventsIn(folder.read(`.batharon/runs/${open!.run}/journal.ndjson`)).at(-1)!.type).not.toBe('finished');
    const forgotten = await folder.run(['slices', 'forget'], options());
    expect(forgotten.status).toBe(0);
  });

  test('without a Redis slices are not taken', async () => {
    const run = await projectWith(LOOP).run(taking);
    expect([run.status, run.all]).toEqual([2, expect.stringContaining('needs-redis')]);
  });
});

describe('slices as one run', () => {
  const REPORTED = `inputs: { list: json }
steps:
  - call: first
    request: GET /first
  - each: vessel in list
    identified-by: vessel.id
    on-failure: continue
    steps:
      - call: make
        request: POST /make/{vessel.id}
        keep: { made: $.id }
        expect: [$.id != 'make/KM-7']
      - call: read
        request: GET /read/{made}
    gather: { done: { id: "{vessel.id}", made: "{made}" } }
  - call: last
    request: GET /last
outputs: [done]
`;
  const options = (list: readonly object[]) => ['--input', listed(list), '--out', 'out.json'];

  /** The machines of some slices, and one on which all records are brought together. */
  async function machines(count: number, list = vessels): Promise<readonly Folder[]> {
    const folders = Array.from({ length: count }, () => projectWith(REPORTED));
    for (const [i, folder] of folders.entries())
      await folder.run(['run', 'c.chain.yaml', '--slice', `${i + 1}/${count}`, ...options(list)]);
    const [first, ...others] = folders;
    for (const folder of others)
      cpSync(`${folder.path}/.batharon/runs`, `${first!.path}/.batharon/runs`, { recursive: true });
    return folders;
  }

  type Report = {
    runs: readonly [{ totals: object; outcome: string; outputs: object; calls: readonly Record<string, unknown>[] }];
  };

  /** A report but for times and the names of runs. */
  const plain = (text: string) => {
    const [{ totals, outcome, outputs, calls }] = (JSON.parse(text) as Report).runs;
    const timeless = calls.map(({ ms: _ms, waited_ms: _waited, ...call }) => call);
    const order = (call: Record<string, unknown>) => String(call['address']);
    return {
      outcome,
      outputs,
      totals: { ...totals, ms: 0 },
      calls: timeless.sort((one, other) => (order(one) < order(other) ? -1 : 1)),
    };
  };

  test('the report of all records equals that of a run that was not divided', async () => {
    const whole = projectWith(REPORTED);
    await whole.run(['run', 'c.chain.yaml', ...options(vessels)]);
    await whole.run(['report', 'json=r.json']);
    const [one] = await machines(3);
    const report = await one!.run(['report', 'json=r.json', 'junit=r.xml', 'html=r.html', 'har=r.har', 'csv=r.csv']);
    expect([report.status, report.all]).toEqual([0, expect.stringContaining('wrote')]);
    expect(plain(one!.read('r.json'))).toEqual(plain(whole.read('r.json')));
    expect(plain(one!.read('r.json')).outcome).toBe('failed');
    expect(one!.read('r.xml').match(/<testcase/g)).toHaveLength(81);
    // Each response is that of its own request, whichever slice sent it.
    const { entries } = (JSON.parse(one!.read('r.har')) as Har).log;
    expect(entries).toHaveLength(81);
    for (const { request, response } of entries)
      expect(JSON.parse(response.content.text)).toMatchObject({ id: new URL(request.url).pathname.slice(1) });
  });

  type Har = {
    log: { entries: readonly { request: { url: string }; response: { content: { text: string } } }[] };
  };

  test('rows that slices wrote to files of one name come together in it', async () => {
    const chain = (form: string) =>
      `${REPORTED.replace("expect: [$.id != 'make/KM-7']", 'on-failure: stop').replace(
        '    gather:',
        `      - write: ${form}\n        row: { id: "{vessel.id}", made: "{made}" }\n    gather:`,
      )}`;
    for (const file of ['out/made.csv', 'out/made.ndjson']) {
      const folders = [1, 2].map(() => projectWith(chain(file)));
      for (const [i, folder] of folders.entries())
        await folder.run(['run', 'c.chain.yaml', '--slice', `${i + 1}/2`, ...options(vessels)]);
      const [one, other] = folders;
      cpSync(`${other!.path}/.batharon/runs`, `${one!.path}/.batharon/runs`, { recursive: true });
      const merged = await one!.run(['report', `rows=${file}`]);
      expect([merged.status, merged.all]).toEqual([0, expect.stringContaining('2 slices of 2')]);
      const text = one!.read(file);
      for (const { id } of vessels) expect(text.split(`make/${id}`).length).toBeGreaterThan(1);
      if (file.endsWith('.csv')) expect(text.trim().split('\n')).toHaveLength(41);
      const none = await one!.run(['report', 'rows=out/other.csv']);
      expect([none.status, none.all]).toEqual([2, expect.stringContaining(`They wrote ${file}`)]);
    }
  });

  test('a slice that is not there, and an item that was done in two, are errors', async () => {
    const [one, other] = await machines(2);
    const lacking = await other!.run(['report', 'junit=r.xml']);
    expect([lacking.status, lacking.all]).toEqual([2, expect.stringMatching(/1 slice of 2 is not recorded here: 1/)]);
    const runs = readdirSync(`${one!.path}/.batharon/runs`);
    const journals = runs.map((run) => `.batharon/runs/${run}/journal.ndjson`);
    const [whole, changed] = journals.map((file) => one!.read(file));
    const id = /make\/(KM-\d+)/.exec(whole!)![1]!;
    const foreign = /\{(KM-\d+)\}/.exec(changed!)![1]!;
    one!.write(journals[1]!, changed!.replaceAll(`{${foreign}}`, `{${id}}`));
    const twice = await one!.run(['report', 'junit=r.xml']);
    expect([twice.status, twice.all]).toEqual([2, expect.stringMatching(/was done in two slices/)]);
  });

  test('two divisions of one chain are compared as two runs', async () => {
    const [one] = await machines(2);
    const before = readdirSync(`${one!.path}/.batharon/runs`)[0]!;
    const [again] = await machines(3);
    cpSync(`${again!.path}/.batharon/runs`, `${one!.path}/.batharon/runs`, { recursive: true });
    const compared = await one!.run(['compare', before, 'last']);
    expect(compared.all).toContain('0 calls differ, 81 do not');
  });
});

testWith(['redis-server'], 'the demo shows three machines that share a limit and divide a loop', async () => {
  const run = await projectWith(LOOP).run(['demo', '--fleet']);
  expect([run.status, run.all]).toEqual([0, expect.stringMatching(/done +6\n.*pilots: passed.*60 calls, 60 expect/s)]);
});
