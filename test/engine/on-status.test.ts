import { chainOf, coreRun } from '../support/engine.ts';
import { keptOf } from '../support/kept.ts';

const create = (own = 'id: $.id', arm = 'id: $.id', status = '409') =>
  chainOf(`- call: create
  request: POST /berths
  json: { name: N1 }
  keep: { x: $, ${own} }
  undo: DELETE /berths/N1
  on-status:
    ${status}:
      steps:
        - call: existing
          request: GET /berths/N1
          keep: { y: $, ${arm} }
- call: use
  request: GET /berths/{id}/use
- say: '{exists(x)} {exists(y)}'`);
const CREATE = create();

const made = { status: 201, body: '{"id": "b-1"}' };
const conflict = { status: 409, body: '{"title": "is there"}' };
const ok = { body: '{"id": "b-1"}' };
const targets = ({ sent }: { sent: readonly { method: string; url: string }[] }) =>
  sent.map(({ method, url }) => `${method} ${url.replace(/^.*\/v1/, '')}`);

test('without the status the call is as any other, and taken back', async () => {
  const run = await coreRun(CREATE, { answers: [made, ok, { status: 204 }] });
  expect([run.exit, targets(run)]).toEqual([0, ['POST /berths', 'GET /berths/b-1/use', 'DELETE /berths/N1']]);
});

test('with it the steps are run, what they keep stands in for what it keeps, and nothing is taken back', async () => {
  const run = await coreRun(CREATE, { answers: [conflict, ok, ok] });
  expect([run.exit, targets(run)]).toEqual([0, ['POST /berths', 'GET /berths/N1', 'GET /berths/b-1/use']]);
  expect(run.ended).toEqual(['passed 1/create', 'passed 1.1/existing', 'passed 2/use', 'passed 3/say']);
  const other = await coreRun(CREATE, { answers: [{ status: 400, body: '{}' }] });
  expect([other.exit, other.codes, other.sent.length]).toEqual([1, ['unexpected-status'], 1]);
});

test('a step of it that fails fails the chain, and going on does nothing twice', async () => {
  const broken = await coreRun(CREATE, { answers: [conflict, { status: 500, body: '{}' }] });
  expect([broken.exit, targets(broken)]).toEqual([1, ['POST /berths', 'GET /berths/N1']]);
  const rest = await coreRun(CREATE, { answers: [ok], recorded: keptOf(broken.events, 'go-on') });
  expect([rest.exit, targets(rest)]).toEqual([0, ['GET /berths/N1', 'GET /berths/b-1/use']]);
});

const CHANGE = chainOf(`- call: read
  request: GET /berths/N1
  keep: { version: headers.etag }
- call: change
  request: PUT /berths/N1
  headers: { If-Match: '{version}' }
  json: { depth: 7 }
  on-status:
    412:
      steps:
        - call: reread
          request: GET /berths/N1
          keep: { version: headers.etag }
      again: 3
- say: '{version}'`);

const tagged = (tag: string) => ({ body: '{}', headers: [['ETag', tag]] as const });
const stale = { status: 412, body: '{}' };
const matched = (run: { sent: readonly { method: string; headers: readonly (readonly [string, string])[] }[] }) =>
  run.sent.flatMap(({ method, headers }) => (method === 'PUT' ? [new Map(headers).get('If-Match')] : []));

test('read again and repeat: with what was read last, so often as it says', async () => {
  const run = await coreRun(CHANGE, {
    answers: [tagged('"1"'), stale, tagged('"2"'), stale, tagged('"3"'), { body: '{}' }],
  });
  expect([run.exit, matched(run)]).toEqual([0, ['"1"', '"2"', '"3"']]);
  expect(run.ended.filter((each) => each.includes('change'))).toEqual([
    'passed 2/change',
    'passed 2.2/change',
    'passed 2.2.2/change',
  ]);
  const never = await coreRun(CHANGE, { answerTo: ({ method }) => (method === 'PUT' ? stale : tagged('"9"')) });
  expect([never.exit, matched(never).length, never.codes]).toEqual([1, 4, ['unexpected-status']]);
});

test('a run that stopped among the repetitions goes on with the last of them', async () => {
  const answers = [tagged('"1"'), stale, tagged('"2"'), stale, { status: 500, body: '{}' }];
  const broken = await coreRun(CHANGE, { answers });
  expect(broken.exit).toBe(1);
  const rest = await coreRun(CHANGE, {
    answers: [tagged('"3"'), { body: '{}' }],
    recorded: keptOf(broken.events, 'go-on'),
  });
  expect([rest.exit, targets(rest), matched(rest)]).toEqual([0, ['GET /berths/N1', 'PUT /berths/N1'], ['"3"']]);
});

test.each([
  [create('id: $.id', 'id: $.id', 'conflict'), 'wrong-type'],
  [create().replace('json:', 'paging: { next: $.next }\n    json:'), 'keys-clash'],
  [create('z: $'), 'maybe-missing'],
  [create('id: $.id', 'z: $'), 'maybe-missing'],
  [CHANGE.replace('again: 3', 'again: 0'), 'duplicate-name'],
  [CREATE, ''],
])('what is wrong with it is told before anything is sent: %#', async (chain, code) => {
  const run = await coreRun(chain, { answers: [conflict, ok] }).then(
    ({ diagnostics }) =>
      diagnostics
        .map((each) => each.code)
        .filter((each) => each !== 'never-used')
        .join(' '),
    (error: Error) => error.message,
  );
  expect(run).toContain(code);
  if (code === '') expect(run).toBe('');
});
