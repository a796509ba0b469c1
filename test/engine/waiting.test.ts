import { chainOf, coreRun, type Answer } from '../support/engine.ts';

const state = (text: string, more: Partial<Answer> = {}): Answer => ({
  body: `{"state": "${text}", "percent": 40}`,
  ...more,
});
const polling = (more = '', expect = '') =>
  chainOf(
    `- call: watch\n  request: GET /jobs/1\n  poll:\n    until: $.state == 'done'\n    give-up-when: $.state == 'lost'\n    every: 1s to 8s\n    within: 30s\n    progress: $.percent\n${more}${expect}  keep: { state: $.state, polls: polls }`,
  ) + 'outputs: [state, polls]\n';

describe('poll', () => {
  test('it looks until the state is there, with pauses that double, and judges the last response', async () => {
    const run = await coreRun(polling(), { answers: [state('queued'), state('queued'), state('done')] });
    expect(run.outputs).toEqual({ state: 'done', polls: 3 });
    expect(run.waited).toBeGreaterThan(2500);
    expect(run.waited).toBeLessThan(3500);
    const polled = run.events.filter(({ type }) => type === 'attempted');
    expect(polled).toMatchObject([{ done: 'no', progress: 40 }, { attempt: 2 }, { attempt: 3, done: 'until' }]);
    expect(
      run.events.filter(({ type }) => type === 'answered').map((each) => 'body' in each && each.body),
    ).toMatchObject([{ dropped: 'polled' }, { dropped: 'polled' }, { text: expect.stringContaining('done') }]);
  });

  test('what cannot recover ends it, with the states that were seen', async () => {
    const run = await coreRun(polling(), { answers: [state('queued'), state('moving'), state('lost')] });
    expect([run.exit, run.codes]).toEqual([1, ['gave-up']]);
    const ended = run.events.find(({ type }) => type === 'ended');
    expect(ended).toMatchObject({ problem: { seen: [{ text: '$.state', before: 'queued, moving' }] } });
  });

  test('so many polls in a row may fail as are tolerated', async () => {
    const bad = { status: 503, body: '{}' };
    const once = polling('', '  retry: { tries: 1 }\n');
    const tolerant = once.replace('every:', 'tolerate: 2\n      every:');
    const passes = [bad, bad, state('queued'), bad, { body: 'no JSON' }, state('done')];
    const run = await coreRun(tolerant, { answers: passes });
    expect([run.exit, run.outputs['polls'], run.sent.length]).toEqual([0, 6, 6]);
    const fails = await coreRun(tolerant, { answers: [bad, state('queued'), bad, bad, bad] });
    expect([fails.exit, fails.codes, fails.sent.length]).toEqual([1, ['unexpected-status'], 5]);
    const silent = await coreRun(tolerant, {});
    expect([silent.exit, silent.codes, silent.sent.length]).toEqual([3, ['no-connection'], 3]);
    const strict = await coreRun(once, { answers: [bad] });
    expect(strict.sent.length).toBe(1);
  });

  test('the deadline: one look falls on it, and none is later', async () => {
    const run = await coreRun(polling(), { answers: [state('queued')] });
    expect(run.codes).toEqual(['deadline-passed']);
    expect(Math.round(run.waited)).toBe(30_000);
    const typo = await coreRun(polling().replace('until: $.state ==', 'until: $.stat =='), {
      answers: [state('done')],
    });
    expect(typo.events.find(({ type }) => type === 'ended')).toMatchObject({
      problem: { message: expect.stringContaining('stat') },
    });
  });

  test('Retry-After is never undercut, also at the end', async () => {
    const after = (seconds: number) => state('queued', { headers: [['Retry-After', String(seconds)]] });
    const run = await coreRun(polling(), { answers: [after(9), state('done')] });
    expect(run.waited).toBe(9000);
    const late = await coreRun(polling(), { answers: [after(20), after(20)] });
    expect([late.codes, late.waited]).toEqual([['deadline-passed'], 20_000]);
  });

  test('a look that is not 2xx fails, unless the condition speaks of the status', async () => {
    expect((await coreRun(polling(), { answers: [{ status: 500, body: '{}' }] })).codes).toEqual(['unexpected-status']);
    const gone = chainOf('- call: a\n  request: GET /a\n  poll: { until: status == 404, every: 1s }');
    const run = await coreRun(gone, { answers: [state('x'), { status: 404, body: '{}' }] });
    expect([run.exit, run.sent.length]).toEqual([0, 2]);
  });
});

test('a round whose last response asks to wait is followed no earlier', async () => {
  const chain = chainOf(
    "- repeat: look\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'done'\n  every: 1s",
  );
  const run = await coreRun(chain, { answers: [state('x', { headers: [['Retry-After', '7']] }), state('done')] });
  expect([run.exit, run.waited]).toEqual([0, 7000]);
});

describe('retry', () => {
  const call = (more: string, method = 'GET') => chainOf(`- call: a\n  request: ${method} /a\n${more}`);
  const retry = '  retry: { tries: 3, wait: 100ms to 1s }\n';

  test('it is sent again until it passes, which is told; with one key for all tries', async () => {
    const run = await coreRun(call(`${retry}  idempotency-key: true`, 'POST'), {
      answers: [{ status: 503 }, { status: 503 }, state('x')],
    });
    expect(run.exit).toBe(0);
    const keys = run.sent.map(({ headers }) => headers.find(([name]) => name === 'Idempotency-Key')![1]);
    expect([keys.length, new Set(keys).size]).toEqual([3, 1]);
    expect(run.events.find(({ type }) => type === 'ended')).toMatchObject({ tries: 3, outcome: 'passed' });
    expect(run.events.at(-1)).toMatchObject({ type: 'finished', totals: { retried: 1, exchanges: 3, calls: 1 } });
    expect(run.events.filter(({ type }) => type === 'again')).toHaveLength(2);
  });

  test.each([
    ['tries are used up', call(retry), [{ status: 503 }], 3, ['unexpected-status']],
    ['a POST may have arrived', call(retry, 'POST'), [{ status: 503 }], 1, ['not-sent-again', 'unexpected-status']],
    ['nothing listens, so nothing arrived', call(retry, 'POST'), [], 3, ['no-connection']],
    [
      'the server says when, without a retry',
      call(''),
      [{ status: 429, headers: [['Retry-After', '2']] }, state('x')],
      2,
      [],
    ],
    ['it says nothing', call(''), [{ status: 429 }], 1, ['unexpected-status']],
    [
      'a 503 later than it may be',
      call(''),
      [{ status: 503, headers: [['Retry-After', '99']] }],
      1,
      ['not-sent-again', 'unexpected-status'],
    ],
    ['a 429 later than it may be', call(''), [{ status: 429, headers: [['Retry-After', '99']] }], 1, ['quota-spent']],
  ] as const)('%s', async (_name, chain, answers, sent, codes) => {
    const run = await coreRun(chain, { answers });
    expect([run.sent.length, run.codes]).toEqual([sent, codes]);
  });
});

describe('rate-limit', () => {
  const project = (rateLimit: string) =>
    `apis:\n  harbour: { url: http://127.0.0.1:1/v1, rate-limit: ${rateLimit}, concurrency: 3 }\n`;
  const loop = chainOf('- each: n in range(12)\n  concurrency: 12\n  steps:\n    - call: a\n      request: GET /a/{n}');

  test('a loop keeps to it, and its waiting is told', async () => {
    const run = await coreRun(loop, { answers: [state('x')], project: project('5/s') });
    expect([run.exit, run.sent.length]).toEqual([0, 12]);
    expect(run.waited).toBeGreaterThanOrEqual(2 * 1020);
    expect(run.events.filter((each) => each.type === 'waited' && each.why === 'rate-limit').length).toBeGreaterThan(0);
    expect(run.events.at(-1)).toMatchObject({ totals: { waited: { 'rate-limit': expect.any(Number) } } });
  });

  test('a spent quota pauses the run: nothing more is sent, and nothing is tidied up', async () => {
    const chain = `${loop}cleanup:\n  - call: z\n    request: GET /z\n`;
    const run = await coreRun(chain, { answers: [state('x')], project: project('7/day') });
    expect([run.exit, run.sent.length]).toEqual([5, 7]);
    expect(run.events.at(-1)).toMatchObject({
      type: 'paused',
      why: 'quota',
      until: Date.parse('2026-05-24T00:00:00Z'),
    });
    // What was stopped has not failed.
    expect(run.events.find((each) => each.type === 'ended' && each.kind === 'each')).toMatchObject({
      counts: { failed: 0 },
    });
    const stays = await coreRun(chain, { answers: [state('x')], project: project('7/day'), waitForQuota: true });
    expect([stays.exit, stays.sent.length]).toEqual([0, 13]);
  });

  test('a call has a rate limit of its own inside that of its api', async () => {
    const chain = chainOf(
      '- each: n in range(4)\n  concurrency: 4\n  steps:\n    - call: a\n      request: GET /a\n      rate-limit: 1/s',
    );
    const run = await coreRun(chain, { answers: [state('x')], project: project('100/s') });
    expect(run.waited).toBeGreaterThanOrEqual(3 * 1020);
  });
});
