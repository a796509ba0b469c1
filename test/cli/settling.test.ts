import { execFile } from 'node:child_process';
import type { IncomingMessage } from 'node:http';
import path from 'node:path';
import { promisify } from 'node:util';
import { useCounting } from '../support/counting.ts';

const { counting, projectWith } = useCounting();

const HEAD = 'name: c\napi: a\n';
const MAKE = (n: number, more = '') =>
  `steps:\n  - call: make\n    request: POST /make\n    json: { n: ${n} }\n${more}  - stop: too early\n`;

test('what was said of requests in doubt holds for every later resume, and gives what they kept', async () => {
  const call = (name: string) =>
    `      - call: ${name}\n        request: POST /${name}\n        json: { n: 7 }\n        keep: { ${name}_id: $.id }\n`;
  const folder = projectWith(
    `steps:\n  - parallel:\n${call('one')}${call('two')}  - call: use\n    request: GET /use/{one_id}/{two_id}\n  - stop: too early\n`,
  );
  const silence = (request: IncomingMessage) => void (counting.silent ||= request.method === 'POST');
  counting.server.prependListener('request', silence);
  await folder.run(['run', 'c.chain.yaml'], { signal: 'SIGKILL', until: () => counting.silent });
  counting.server.off('request', silence);
  counting.silent = false;
  const asked = await folder.run(['resume', '--no-prompt']);
  expect(asked.status).toBe(3);
  for (const name of ['one', 'two'])
    expect(asked.err).toMatch(
      new RegExp(`/${name} +POST \\S+/${name} was sent at \\S+ and never answered[^\\n]*\\n +\\{"n":7\\}`),
    );
  expect(counting.posts).toEqual([]);
  // One answer leaves the other one in doubt, and nothing is sent.
  const half = await folder.run(['resume', '--no-prompt', '--sent', '1.1/one']);
  expect([half.status, counting.posts]).toEqual([3, []]);
  const unknown = await folder.run(['resume', '--sent', 'all']);
  expect([unknown.status, unknown.out]).toEqual([1, expect.stringContaining('not-answered')]);
  expect(unknown.out).toContain('--kept 1.1/one:one_id=VALUE');
  const used = await folder.run(['resume', '--kept', '1.1/one:one_id=4711', '--kept', '1.2/two:two_id="x y"']);
  expect([used.status, used.out]).toEqual([1, expect.stringContaining('GET /use/4711/x%20y')]);
  const later = await folder.run(['resume']);
  expect([later.status, later.out, counting.posts]).toEqual([1, expect.stringContaining('too early'), []]);
});

test('a change that was made is not made again as another request unless somebody says so', async () => {
  const folder = projectWith(MAKE(1));
  await folder.run(['run', 'c.chain.yaml']);
  expect(counting.posts.length).toBe(1);
  folder.write('c.chain.yaml', HEAD + MAKE(2));
  const asked = await folder.run(['resume', '--no-prompt']);
  expect([asked.status, asked.all]).toEqual([3, expect.stringContaining('changed-since-sent')]);
  expect(asked.all.replace(/\s+/g, ' ')).toContain('body $.n: expected 1, found 2');
  for (const args of [['--skip', '1/make'], []]) await folder.run(['resume', '--no-prompt', ...args]);
  expect(counting.posts.length).toBe(1);
  // What was skipped is asked about again when it changes again.
  folder.write('c.chain.yaml', HEAD + MAKE(3));
  expect((await folder.run(['resume', '--no-prompt'])).status).toBe(3);
  const sent = await folder.run(['resume', '--resend', 'all']);
  expect([sent.status, counting.posts.length]).toEqual([1, 2]);
  expect((await folder.run(['resume', '--no-prompt'])).out).toContain('too early');
  folder.write('c.chain.yaml', HEAD + MAKE(4, '    repeatable: true\n'));
  await folder.run(['resume', '--no-prompt']);
  expect(counting.posts.length).toBe(3);
  // Renamed, and the same otherwise.
  folder.write('c.chain.yaml', HEAD + MAKE(4).replace('call: make', 'call: create'));
  const renamed = await folder.run(['resume', '--no-prompt']);
  expect([renamed.out, counting.posts.length]).toEqual([expect.stringContaining('too early'), 3]);
});

test('what a damaged record has lost is in doubt, and not sent again', async () => {
  const folder = projectWith(MAKE(1));
  await folder.run(['run', 'c.chain.yaml']);
  const [name, text] = folder.all().find(([each]) => each.endsWith('journal.ndjson'))!;
  for (const lost of [
    ['sent'],
    ['answered'],
    ['ended'],
    ['sent', 'answered'],
    ['sent', 'ended'],
    ['sent', 'answered', 'ended'],
  ]) {
    const damaged = text
      .split('\n')
      .map((line) => (lost.some((type) => line.includes(`"type":"${type}"`)) ? line.slice(0, 40) : line));
    folder.write(name, damaged.join('\n'));
    const { status, all } = await folder.run(['resume', '--no-prompt']);
    expect([lost, status, all]).toEqual([lost, 3, expect.stringContaining('in-doubt')]);
    expect(counting.posts.length).toBe(1);
    const settled = await folder.run(['resume', '--no-prompt', '--sent', '1/make']);
    expect([lost, settled.status, settled.out]).toEqual([lost, 1, expect.stringContaining('too early')]);
    expect((await folder.run(['resume', '--no-prompt'])).out).toContain('too early');
    expect(counting.posts.length).toBe(1);
  }
});

test('a run that is killed, cut off, answered for, edited and renamed makes every change once, and once more for each --resend', async () => {
  const script = path.join(__dirname, '../../scripts/soak-settling.mjs');
  const env = { ...process.env, KILLS: '8', SEED: '202' };
  const { stdout } = await promisify(execFile)(process.execPath, [script], { env });
  const [, generations = '0'] =
    /kills in (\d+) generations .* every change was made as often as was said/.exec(stdout) ?? [];
  expect([stdout, Number(generations) >= 4]).toEqual([stdout, true]);
}, 120_000);

test('the plan of a resumed run is what it does', async () => {
  const chain = ({ n = 1, at = 'read', name = 'make', more = '' }) =>
    `${HEAD}steps:\n  - call: ${name}\n    request: POST /make\n    json: { n: ${n} }\n    keep: { id: $.id }\n` +
    `  - call: fixed\n    request: GET /fixed\n  - call: read\n    request: GET /${at}/{id}\n    keep: { of: $.id }\n` +
    `  - let: { both: "joined([id, of], '-')" }\n  - call: add\n    request: POST /add/{both}\n    repeatable: true\n${more}  - call: end\n    request: GET /end\n  - stop: too early\n`;
  const plan = async (options: object, args: readonly string[] = []) => {
    const folder = projectWith('');
    folder.write('c.chain.yaml', chain({}));
    await folder.run(['run', 'c.chain.yaml']);
    folder.write('c.chain.yaml', chain(options));
    const before = folder.journals()[0]!.filter(({ type }) => type === 'sent').length;
    const { all } = await folder.run(['resume', '--no-prompt', ...args]);
    const sent = folder.journals()[0]!.filter(({ type }) => type === 'sent').length - before;
    return [/\d+ calls? done.*(?:\n.*which depend.*)?/.exec(all)![0].replace(/ \(from [^)]*\)/g, ''), sent];
  };
  expect(await plan({})).toEqual(['5 calls done, 0 re-evaluated, 0 to send', 0]);
  expect(await plan({ name: 'made' })).toEqual(['5 calls done, 0 re-evaluated, 0 to send', 0]);
  const changed = '0 re-evaluated, 0 to send, 1 changed since sent, and up to 4 more, which depend on make';
  expect(await plan({ n: 2 })).toEqual([`0 calls done, ${changed}`, 0]);
  expect(await plan({ n: 2 }, ['--skip', 'all'])).toEqual(['5 calls done, 0 re-evaluated, 0 to send', 0]);
  // What only reads is read again behind it; what changes something is sent again only as another request.
  expect(await plan({ n: 2 }, ['--resend', 'all'])).toEqual([
    '0 calls done, 0 re-evaluated, 4 to send, and up to 1 more, which depend on make',
    4,
  ]);
  expect(await plan({ at: 'reads' })).toEqual([
    '2 calls done, 0 re-evaluated, 2 to send, and up to 1 more, which depend on read',
    3,
  ]);
  expect(await plan({ more: '  - call: new\n    request: POST /new\n' })).toEqual([
    '4 calls done, 0 re-evaluated, 2 to send',
    2,
  ]);
});

test('the cleanup of a run that goes on without sending anything is not done again', async () => {
  const chain = (id: string) =>
    `${HEAD}steps:\n  - { call: read, request: GET /read, expect: ["$.id == '${id}'"] }\ncleanup:\n  - { call: tell, request: POST /tell }\n`;
  const folder = projectWith('');
  folder.write('c.chain.yaml', chain('other'));
  expect((await folder.run(['run', 'c.chain.yaml'])).status).toBe(1);
  // The call that failed is sent again, and so what tells of it is.
  const stopped = projectWith(
    'steps:\n  - { call: read, request: GET /read }\n  - { call: add, request: POST /add }\ncleanup:\n  - { call: tell, request: POST /tell/to }\n',
  );
  await stopped.run(['run', 'c.chain.yaml', '--to', 'read']);
  expect((await stopped.run(['resume'])).all).toContain('1 to send (from add), then 1 call of its cleanup');
  counting.posts.length = 1;
  const again = await folder.run(['resume']);
  expect([again.status, counting.posts]).toEqual([1, ['/tell', '/tell']]);
  expect(again.all).toContain('its cleanup has run already, and runs again once something is sent');
  const loop = projectWith(
    'steps:\n  - each: n in [1, 2]\n    on-failure: continue\n    steps:\n      - { call: read, request: "GET /read/{n}", expect: [n > 1 && status == 200] }\ncleanup:\n  - { call: tell, request: POST /tell/loop }\n',
  );
  expect((await loop.run(['run', 'c.chain.yaml'])).status).toBe(1);
  for (let i = 0; i < 2; i++) expect((await loop.run(['resume'])).status).toBe(1);
  expect(counting.posts.filter((url) => url === '/tell/loop')).toHaveLength(1);
  await loop.run(['resume', '--failed']);
  expect(counting.posts.filter((url) => url === '/tell/loop')).toHaveLength(2);
});
