import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { useDemo } from '../support/harbour.ts';
import { useFolders } from '../support/program.ts';

const demo = useDemo();
const folderWith = useFolders();

describe('one call alone, and as far as a call', () => {
  const chain = 'chains/cargo.chain.yaml';

  test('what cannot be reached is told before anything is sent', async () => {
    const folder = demo();
    const told = async (...args: readonly string[]) => {
      const { status, err } = await folder.run(['run', chain, ...args]);
      return [status, err];
    };
    expect(await told('--to', 'vesel')).toEqual([2, expect.stringMatching(/no call "vesel".*\n.*"vessel"\?/)]);
    expect(await told('--to', 'vessel', '--item', '1')).toEqual([2, expect.stringContaining('--item goes with')]);
    await folder.run(['run', chain, '--first', '2']);
    expect(await told('--only', 'vessel')).toEqual([
      2,
      expect.stringMatching(/in a loop \(row in cargo\).*\n.*--item 1/),
    ]);
    expect(await told('--only', 'vessel', '--item', '1.2')).toEqual([2, expect.stringContaining('goes deeper')]);
    expect(await told('--only', 'vessel', '--item', '0')).toEqual([2, expect.stringContaining('not "0"')]);
    expect(folder.journals()).toHaveLength(1);
  });

  test('one item is sent, no file is written, and nothing is there to go on with', async () => {
    const folder = demo();
    await folder.run(['run', chain, '--first', '2']);
    const before = folder.read('out/cargo.csv');
    const one = await folder.run(['run', chain, '--only', 'vessel', '--item', '2']);
    expect(one.all).toMatch(/1 of 500 items/);
    expect(one.all).toMatch(/passed, only vessel {3}1 call, /);
    expect(one.all).not.toMatch(/updated|To resume/);
    expect(folder.read('out/cargo.csv')).toBe(before);
    const far = await folder.run(['run', chain, '--only', 'vessel', '--item', '501']);
    expect([far.status, far.all]).toEqual([2, expect.stringContaining('There is no item 501: cargo has 500 items')]);
    const listed = (await folder.run(['runs'])).out;
    expect(listed.match(/one call|passed/g)).toEqual(['one call', 'one call', 'passed']);
    // Without a run that is said, the one before it is gone on with.
    expect((await folder.run(['resume'])).out).toMatch(/has passed/);
    const { err } = await folder.run(['resume', listed.split(' ')[0]!]);
    expect(err).toContain('was for a single call');
  });

  test('as far as a call it passes or fails, and stays open', async () => {
    const folder = demo();
    const to = await folder.run(['run', 'chains/arrivals.chain.yaml', '--to', 'arrivals']);
    expect([to.status, to.all]).toEqual([0, expect.stringMatching(/passed up to arrivals[\s\S]*\nTo resume: /)]);
    const failed = await folder.run(['run', 'chains/arrivals.chain.yaml', '--to', 'vessel']);
    expect([failed.status, failed.all]).toEqual([1, expect.stringMatching(/failed up to vessel/)]);
  });
});

test('items that listen have addresses of their own, which are closed when they end; callbacks can be looked at', async () => {
  const folder = demo();
  folder.write(
    'chains/notices.chain.yaml',
    `api: harbour\nsteps:\n  - each: v in ['KM 204/5', 'SV 347/3', 'TR 360/1', 'KM 100/1']\n    concurrency: 4\n    on-failure: continue\n    steps:\n      - listen: notice\n      - call: ask\n        request: POST /notices\n        json: { vessel: "{v}", callback: "{notice.url}" }\n      - receive: notice\n        within: 5s\n        until: $.state == 'moored'\n        expect: ["$.vessel == v && loop.number != 3"]\n`,
  );
  const run = await folder.run(['run', 'chains/notices.chain.yaml']);
  expect(run.all).toMatch(/4 items, 1 failed/);
  expect(run.all).toMatch(/details: batharon look receive --item 3/);
  const looked = await folder.run(['look', 'receive', '--item', '3']);
  expect(looked.out).toMatch(
    /^notice .*received\n\nPOST http:\/\/127\.0\.0\.1[^]*"vessel": "TR 360\/1"[^]*answered 204/,
  );
  expect((await folder.run(['look', 'notice', '--as', 'json'])).out).toContain('"answered": 204');
});

test('--verbose has a line for every step of every item, and for requests that are not all of their call', async () => {
  const folder = demo();
  const run = await folder.run(['run', 'chains/arrivals.chain.yaml', '--verbose']);
  expect(run.all).toMatch(/GET \/arrivals\?limit=8&page=3 {3}200 {3}\d+ ms, page 3\n/);
  expect(run.all.match(/^ 2#\d+\.1 +vessel/gm)).toHaveLength(14);
  const rounds = await folder.run(['run', 'chains/new-berth.chain.yaml']);
  expect(rounds.all).not.toMatch(/^ 4#1/m);
});

test('pages that a query leads back to, and names of pages where there are none', async () => {
  const folder = demo();
  const chain = (more: string) => `api: harbour\nsteps:\n  - call: a\n    request: GET /arrivals?limit=10\n${more}`;
  folder.write(
    'chains/round.chain.yaml',
    chain(
      '    paging: { query: { page: "{$.next_page}" }, while: exists($.next_page), items: $.arrivals }\n    expect: [length(items) == 30]\n',
    ),
  );
  const round = await folder.run(['run', 'chains/round.chain.yaml']);
  expect([round.status, round.all]).toEqual([1, expect.stringMatching(/paging-loop: Page 4 is page 1 again/)]);
  folder.write('chains/none.chain.yaml', chain('    expect: [length(items) > page_count]\n'));
  const none = await folder.run(['check', 'chains/none.chain.yaml']);
  expect(none.all.match(/error unknown-name: "(items|page_count)"/g)).toHaveLength(2);
});

test('a chain that uses another one has failed of what failed there', async () => {
  const folder = demo();
  folder.write(
    'chains/inner.chain.yaml',
    'inputs: { n: integer }\nsteps:\n  - stop: number {n}\n    when: n % 2 == 0\n',
  );
  folder.write(
    'chains/outer.chain.yaml',
    'steps:\n  - each: n in range(12)\n    on-failure: continue\n    rejects: ../out/rejected.csv\n    steps:\n      - chain: inner.chain.yaml\n        inputs: { n: "{n}" }\ncleanup:\n  - say: "{length(run.failed)} failed, the first {run.failed[0].reason}"\n',
  );
  const run = await folder.run(['run', 'chains/outer.chain.yaml']);
  expect(run.all).toContain('6 failed, the first number 0');
  expect(run.all.match(/^failed {2}\S+/gm)).toEqual(['failed  stop,']);
  expect(run.all).toContain('6 items failed in the same way: 1, 3, 5, 7, 9, 11');
  expect(folder.read('out/rejected.csv')).toContain('\n2,stop,number 2\n');
});

test('items with cookies of their own start with those of the run, and leave it none', async () => {
  const server = createServer((request, response) => {
    const { pathname, searchParams } = new URL(request.url!, 'http://here');
    if (pathname === '/begin') response.setHeader('Set-Cookie', 'tongue=no');
    if (pathname === '/in') response.setHeader('Set-Cookie', `who=${searchParams.get('who')}`);
    response.setHeader('Content-Type', 'application/json');
    response.end(JSON.stringify({ cookie: request.headers.cookie ?? '' }));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const folder = folderWith({
    'batharon.yaml': `apis:\n  gate:\n    url: http://127.0.0.1:${(server.address() as AddressInfo).port}\n`,
    'c.chain.yaml': `steps:\n  - call: begin\n    request: GET /begin\n  - each: who in ['a', 'b', 'c', 'd']\n    concurrency: 4\n    cookies: own\n    steps:\n      - call: in\n        request: GET /in{?who}\n      - call: me\n        request: GET /me\n        keep: { cookie: $.cookie }\n    gather: { all: "{cookie}" }\n  - call: after\n    request: GET /me\n    keep: { left: $.cookie }\noutputs: [all, left]\n`,
  });
  const run = await folder.run(['run', 'c.chain.yaml', '--out', '-']);
  server.close();
  const own = ['a', 'b', 'c', 'd'].map((who) => `tongue=no; who=${who}`);
  expect(JSON.parse(run.out)).toEqual({ all: own, left: 'tongue=no' });
});

test('--exclusive: not beside another run of the chain at the same deployment', async () => {
  const folder = demo();
  folder.write(
    'batharon.yaml',
    'apis:\n  a:\n    deployments:\n      one: { url: http://127.0.0.1:1 }\n      two: { url: http://127.0.0.1:2 }\n    default-deployment: one\n',
  );
  folder.write(
    'c.chain.yaml',
    'api: a\nsteps:\n  - wait: 9s\n  - call: never\n    request: GET /\n    when: run_all\ninputs: { run_all: { type: boolean, default: false } }\n',
  );
  const run = (...args: readonly string[]) => folder.run(['run', 'c.chain.yaml', ...args]);
  let beside: Promise<unknown[]> | undefined;
  let isOver = false;
  const first = folder.run(['run', 'c.chain.yaml'], {
    until: () => {
      if (!beside && folder.all().some(([name]) => name.endsWith('run.lock'))) {
        const others = ['one', 'two'].map((at) => run('--exclusive', '--at', at, '--within', '1ms'));
        beside = Promise.all(others).finally(() => (isOver = true));
      }
      return isOver;
    },
  });
  await first;
  expect(await beside).toMatchObject([
    { status: 2, err: expect.stringMatching(/run-under-way: Process \d+ is running this chain in the run/) },
    { status: 3 },
  ]);
});
