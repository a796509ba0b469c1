import type { RunHost } from '../../src/core/engine/host.ts';
import { calledBack } from '../support/called-back.ts';
import { chainOf, coreRun } from '../support/engine.ts';

/** A server that was called back with these bodies before anybody waited. */
/** One of each kind of place in which a text is filled; `{data.gone}` finds nothing. */
const places: readonly (readonly [what: string, steps: string])[] = [
  ['a target', '- call: a\n  request: GET /{data.gone}'],
  ['a query parameter', "- call: a\n  request: GET /x\n  query: { x: '{data.gone}' }"],
  ['a header', "- call: a\n  request: GET /x\n  headers: { x: '{data.gone}' }"],
  ['a body', "- call: a\n  request: POST /x\n  json: { x: '{data.gone}' }"],
  ['an idempotency key', "- call: a\n  request: POST /x\n  idempotency-key: 'k{data.gone}'"],
  ['a bearer token', "- call: a\n  request: GET /x\n  auth: { bearer: '{data.gone}' }"],
  ['a user name', "- call: a\n  request: GET /x\n  auth: { basic: { user: '{data.gone}', password: p } }"],
  [
    'a token request',
    "- call: a\n  request: GET /x\n  auth: { oauth2: { grant: client-credentials, token-url: 'http://127.0.0.1:1/token', client-id: '{data.gone}', client-secret: s } }",
  ],
  ['said text', "- say: '{data.gone}'"],
  ['the reason of a stop', "- stop: '{data.gone}'"],
  ['an input of a chain', "- chain: inner.chain.yaml\n  inputs: { x: '{data.gone}' }"],
  ['the file of a write', "- write: '{data.gone}.csv'\n  row: { a: b }"],
  ['a cell of a write', "- write: rows.csv\n  row: { a: '{data.gone}' }"],
  ['a file of rejects', "- each: x in [1]\n  rejects: '{data.gone}.csv'\n  steps: [{ say: '{x}' }]"],
  ['a path to listen at', "- listen: hook\n  path: '/{data.gone}'\n- receive: hook"],
  ['an answer to a callback', "- listen: hook\n- receive: hook\n  respond: { headers: { x: '{data.gone}' } }"],
];
const inner = { file: { path: 'inner.chain.yaml', text: '' }, inputs: [], steps: [], cleanup: [], outputs: [] };
const options = {
  answers: [{ body: '{}' }],
  inputs: { data: '{"name": "notes.txt"}' },
  openCallbacks: async () => calledBack(['{}']),
  chains: { 'inner.chain.yaml': { ...inner, name: 'inner', about: undefined, tags: [], api: undefined } },
};
const above = 'inputs: { data: json }\n';

test.each(places)('%s that cannot be filled is a failure with a place, and the cleanup runs', async (_what, steps) => {
  const { exit, events, ended } = await coreRun(`${chainOf(steps, above)}cleanup:\n  - say: cleaned up\n`, options);
  const problem = events.flatMap((event) => (event.type === 'ended' && event.problem ? [event.problem] : []));
  expect(problem[0]).toMatchObject({ code: 'found-nothing', source: { file: 'test.chain.yaml' } });
  expect(problem[0]!.line).toContain('data.gone');
  expect([exit, ended.at(-1)]).toEqual([1, 'passed c1/say']);
  expect(events.at(-1)).toMatchObject({ type: 'finished', outcome: 'failed' });
});

test.each(places)('so it is in a cleanup, whose further steps run: %s', async (_what, steps) => {
  const cleanup = `cleanup:\n${`${steps}\n- say: the last\n`.replace(/^(?=.)/gm, '  ')}`;
  const { exit, ended } = await coreRun(chainOf('- say: first', above) + cleanup, options);
  expect([exit, ended.at(-1)]).toEqual([1, expect.stringMatching(/^passed c\d\/say$/)]);
});

test('what decides among callbacks reads exact numbers, as responses do', async () => {
  const chain = chainOf(`- listen: hook
- receive: hook
  until: $.n == 9007199254740993
  keep: { n: $.n, word: $.word }`);
  const { exit, events } = await coreRun(chain, {
    openCallbacks: async () =>
      calledBack(['{"n":9007199254740992,"word":"near"}', '{"n":9007199254740993,"word":"it"}']),
  });
  const kept = events.flatMap((event) => (event.type === 'ended' && event.kind === 'receive' ? event.binds : []));
  expect([exit, kept!.map((bind) => bind!.value)]).toEqual([0, [expect.anything(), { json: 'it' }]]);
});

test('a signature that is wrong is told by its kind, and never shown', async () => {
  const chain = (sign: string) =>
    chainOf(`- listen: hook
- receive: hook
  expect: ["${sign} == hex(hmac('sha256', secret.KEY, raw))"]`);
  const run = async (sign: string) => {
    const openCallbacks = async () =>
      calledBack([`{"sign": "${'ab12'.repeat(16)}", "other": "sha256=${'+/x='.repeat(10)}"}`]);
    const { events } = await coreRun(chain(sign), { secrets: { KEY: 'k-4711' }, openCallbacks });
    return JSON.stringify(events.filter(({ type }) => type === 'ended'));
  };
  const hex = '64 characters of hexadecimal in lower case';
  expect(await run('$.sign')).toContain(`Both sides are ${hex}, and differ: it is another secret, or other bytes`);
  expect(await run('$.other')).toContain(`The left side is sha256= and 40 characters, the right side ${hex}`);
});

test('a step is opened and ended under one key', async () => {
  const { events } = await coreRun(
    chainOf(
      `- if: not(exists(data.gone))
  steps: [{ parallel: [{ say: a }, { say: b }] }]
- each: x in [1, 2]
  steps: [{ say: '{x}' }, { say: again }]
- repeat: rounds
  carry: { n: '1' }
  until: n > 2
  steps: [{ let: { n: n + 1 } }]`,
      above,
    ),
    options,
  );
  const keys = (type: 'opened' | 'ended') =>
    events.flatMap((event) => (event.type === type && event.kind !== 'round' ? [`${event.step} ${event.key}`] : []));
  expect(keys('ended')).toEqual(expect.arrayContaining(keys('opened')));
});

/** What no step foresees: its host fails in some way. */
const unforeseen: readonly (readonly [what: string, steps: string, host: Partial<RunHost>])[] = [
  ['a file that is written', '- write: rows.csv\n  row: { a: 1 }', { rowsFile: () => boom() }],
  ['a file that is read', '- let: { x: "read_file(data.name)" }', { readFile: () => boom() }],
  ['a body from a file', '- call: a\n  request: POST /x\n  file: "{data.name}"', { openFile: () => boom() }],
  ['randomness', '- listen: hook\n- receive: hook', { randomness: { bytes: () => boom() } }],
  [
    'a loop over what fails',
    '- each: x in [1, 2]\n  steps:\n    - write: rows.csv\n      row: { a: 1 }',
    { rowsFile: () => boom() },
  ],
  [
    'a round that fails',
    '- repeat: r\n  until: loop.number > 2\n  steps:\n    - write: rows.csv\n      row: { a: 1 }',
    { rowsFile: () => boom() },
  ],
  [
    'one of several at a time',
    '- parallel:\n    - say: a\n    - write: rows.csv\n      row: { a: 1 }',
    { rowsFile: () => boom() },
  ],
];
function boom(): never {
  throw new TypeError('Nobody thought of this');
}
function refused(): never {
  throw Object.assign(new Error('ENOSPC'), { code: 'ENOSPC', syscall: 'write', path: '/srv/rows.csv' });
}
const MADE = '- call: made\n  request: POST /things\n  undo: DELETE /things/1\n';

test.each(unforeseen)(
  'a fault nobody foresaw is a failure of its step, undone and cleaned up behind: %s',
  async (_what, steps, host) => {
    const chain = `${chainOf(MADE + steps, above)}cleanup:\n  - call: close\n    request: POST /closed\n`;
    const { exit, events, sent } = await coreRun(chain, { ...options, host });
    expect(exit).toBe(4);
    expect(events.some((event) => event.type === 'ended' && event.problem?.code === 'internal')).toBe(true);
    expect(sent.map(({ method, url }) => `${method} ${new URL(url).pathname}`).slice(-2)).toEqual([
      'DELETE /v1/things/1',
      'POST /v1/closed',
    ]);
    expect(events.at(-1)).toMatchObject({ type: 'finished', outcome: 'failed', exit: 4 });
  },
);

test('what the system refuses is an ordinary failure, with the place', async () => {
  const host = { rowsFile: () => refused() };
  const { exit, events } = await coreRun(chainOf(`${MADE}- write: rows.csv\n  row: { a: 1 }`), {
    ...options,
    inputs: {},
    host,
  });
  const problem = events.flatMap((event) => (event.type === 'ended' && event.problem ? [event.problem] : []))[0];
  expect([exit, problem]).toEqual([
    1,
    expect.objectContaining({ code: 'not-writable', line: expect.stringContaining('rows.csv') }),
  ]);
  expect(problem!.message).toContain('/srv/rows.csv');
});

test.each([
  ['a date beyond the calendar', "string(date('9999-12-31') + 99999999h)"],
  ['a text that is too long', "repeat('x', 100000000) + repeat('x', 500000000)"],
  ['a duration beyond all', 'now() + 9999999999999999h'],
])('%s is a failure with a place, and no fault', async (_what, expression) => {
  const { exit, codes } = await coreRun(chainOf(`- let: { x: ${JSON.stringify(expression)} }`)).catch(() => ({
    exit: 1,
    codes: ['at check'],
  }));
  expect([exit, codes]).toEqual([1, expect.not.arrayContaining(['internal'])]);
});
