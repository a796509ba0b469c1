import { chainOf, coreRun } from '../support/engine.ts';

const ok = { answers: [{ body: '{"n": 1}' }] };

describe('branches', () => {
  const chain = (x: number) =>
    chainOf(`- let: { x: "${x}" }
- if: x > 1
  steps:
    - say: "more than one"
    - let: { size: "'big'" }
  otherwise:
    - let: { size: "'small'" }
- say: "{size}"`);

  test('run the steps of one arm, numbered inside it', async () => {
    const { ended, events } = await coreRun(chain(2));
    expect(ended).toEqual(['passed 1/let', 'passed 2.1/say', 'passed 2.2/let', 'passed 2/if', 'passed 3/say']);
    expect(events.find(({ type }) => type === 'opened')).toMatchObject({
      step: '2/if',
      branch: 'steps',
      text: 'x > 1',
    });
  });

  test('or of the other', async () => {
    const { ended, events } = await coreRun(chain(1));
    expect(ended).toEqual(['passed 1/let', 'passed 2.o1/let', 'passed 2/if', 'passed 3/say']);
    expect(events.filter((event) => event.type === 'said').map(({ text }) => text)).toEqual(['small']);
  });

  test('a failure inside ends the chain', async () => {
    const { exit, ended } = await coreRun(
      chainOf(
        `- if: 1 < run_twice\n  steps:\n    - let: { x: "string(null)" }\n- say: never`,
        'inputs: { run_twice: integer }\n',
      ),
      {
        inputs: { run_twice: '2' },
      },
    );
    expect(exit).toBe(1);
    expect(ended).toEqual(['failed 1.1/let', 'failed 1/if']);
  });
});

describe('when', () => {
  const chain = chainOf('- let: { a: 1 }\n  when: wanted\n- say: "{a ?? 0}"', 'inputs: { wanted: boolean }\n');

  test('false skips the step, whose names are then nothing', async () => {
    const { ended, events } = await coreRun(chain, { inputs: { wanted: 'false' } });
    expect(ended).toEqual(['skipped 1/let', 'passed 2/say']);
    expect(events).toContainEqual(
      expect.objectContaining({ type: 'ended', outcome: 'skipped', why: 'when wanted is false' }),
    );
    expect(events).toContainEqual(expect.objectContaining({ type: 'said', text: '0' }));
  });

  test('true runs it', async () => {
    expect((await coreRun(chain, { inputs: { wanted: 'true' } })).ended).toEqual(['passed 1/let', 'passed 2/say']);
  });

  test('nothing is an error', async () => {
    const { exit, codes } = await coreRun(
      chainOf('- say: x\n  when: flag == 1', 'inputs: { flag: { type: integer, optional: true } }\n'),
    );
    expect([exit, codes]).toEqual([1, ['found-nothing']]);
  });
});

describe('stop', () => {
  test('ends the chain as failed, with its reason', async () => {
    const { exit, events, ended } = await coreRun(
      chainOf('- let: { n: 3 }\n- stop: "no berth for {n}"\n  when: n > 2\n- say: never'),
    );
    expect([exit, ended]).toEqual([1, ['passed 1/let', 'failed 2/stop']]);
    expect(events).toContainEqual(
      expect.objectContaining({ problem: expect.objectContaining({ code: 'stopped', message: 'no berth for 3' }) }),
    );
  });

  test('ends it as passed, from inside a branch too', async () => {
    const { exit, ended } = await coreRun(
      chainOf('- let: { n: 3 }\n- if: n > 2\n  steps:\n    - stop: enough\n      as: passed\n- say: never'),
    );
    expect([exit, ended]).toEqual([0, ['passed 1/let', 'passed 2.1/stop', 'passed 2/if']]);
  });
});

describe('wait', () => {
  test.each([
    ['2s', 2000],
    ['2 * 1m', 120_000],
    ['{ to: "date_time(\'2026-05-23T10:00:05Z\')" }', 5000],
    ['{ to: "date_time(\'2020-01-01\')" }', 0],
  ])('%s', async (written, milliseconds) => {
    const { waited, exit, events } = await coreRun(chainOf(`- wait: ${written}`));
    expect([exit, waited]).toEqual([0, milliseconds]);
    expect(events.filter(({ type }) => type === 'waited')).toHaveLength(milliseconds > 0 ? 1 : 0);
  });

  test('what is no duration fails', async () => {
    const { codes } = await coreRun(chainOf('- call: a\n  request: GET /a\n  keep: { n: $.n }\n- wait: n'), ok);
    expect(codes).toEqual(['wrong-argument']);
  });
});

describe('on-failure: continue', () => {
  test('the steps behind a failed call run, and the run fails all the same', async () => {
    const { exit, ended } = await coreRun(
      chainOf('- call: a\n  request: GET /a\n  on-failure: continue\n  expect: [$.n == 2]\n- say: after'),
      ok,
    );
    expect([exit, ended]).toEqual([1, ['failed 1/a', 'passed 2/say']]);
  });

  test('also when there was no response at all and nothing is in doubt', async () => {
    const { exit, ended } = await coreRun(
      chainOf('- call: a\n  request: GET /a\n  on-failure: continue\n- say: after'),
    );
    expect([exit, ended]).toEqual([3, ['failed 1/a', 'passed 2/say']]);
  });
});

describe('volatile functions', () => {
  const chain = chainOf(
    '- let: { a: uuid(), b: uuid(), c: "random_integer(1, 1000000)", at: now() }\n- let: { d: uuid() }',
    '',
  ).replace(/$/, 'outputs: [a, b, c, d, at]\n');

  test('the same seed gives the same again, each draw another', async () => {
    const [one, two] = [await coreRun(chain), await coreRun(chain)];
    expect(one.outputs).toEqual(two.outputs);
    expect(new Set([one.outputs['a'], one.outputs['b'], one.outputs['d']]).size).toBe(3);
    const other = await coreRun(chain, { host: { seed: 'other' } });
    expect(other.outputs['a']).not.toBe(one.outputs['a']);
  });

  test('what was drawn is recorded', async () => {
    const { events, outputs } = await coreRun(chain);
    const drew = events.flatMap((event) => (event.type === 'ended' ? [event.drew] : []))[0]!;
    expect(drew.map(([name]) => name)).toEqual(['uuid', 'uuid', 'random_integer', 'now']);
    expect(drew[0]![1]).toBe(outputs['a']);
  });

  test('inside secret() they are neither recorded nor taken from the seed', async () => {
    const { events } = await coreRun(
      chainOf('- let: { key: secret(random_text(12)) }\n- call: a\n  request: GET /a\n  headers: { X-Key: "{key}" }'),
      ok,
    );
    expect(JSON.stringify(events)).not.toMatch(/drew/);
    expect(events.find(({ type }) => type === 'sent')).toMatchObject({
      request: { headers: expect.arrayContaining([['X-Key', '‹key›']]) },
    });
  });
});

describe('marked values', () => {
  test('are masked in their own response, in binds, and in what comes later', async () => {
    const { events, outputs } = await coreRun(
      `${chainOf('- call: sign_in\n  request: POST /tokens\n  keep: { token: secret($.access_token) }\n- call: echo\n  request: GET /echo\n  keep: { said: $.said }\n- say: "got {said}"')}outputs: [said]\n`,
      { answers: [{ body: '{"access_token": "tok-123456789"}' }, { body: '{"said": "you sent tok-123456789"}' }] },
    );
    expect(JSON.stringify(events)).not.toContain('tok-123456789');
    expect(JSON.stringify(events)).toContain('‹token›');
    expect(outputs['said']).toBe('you sent tok-123456789');
  });
});

test('how the run went can be given', async () => {
  const { outputs } = await coreRun(
    `${chainOf('- call: a\n  request: GET /a\n  expect: [$.n == 2]')}outputs: { id: run.id, outcome: run.outcome, failed: "run.failed[*].step" }\n`,
    ok,
  );
  expect(outputs).toEqual({ id: 'test', outcome: 'failed', failed: ['a'] });
});

describe('what a run does at its edges', () => {
  test('a cleanup skips each call that has nothing to clean up, also behind one that ran', async () => {
    const chain = `api: harbour
steps:
  - call: a
    request: GET /a
    keep: { n: $.n }
cleanup:
  - call: first
    request: DELETE /first/{n}
  - call: second
    request: DELETE /second/{never}
  - call: third
    request: DELETE /third/{n}
`;
    const keepsNever = chain.replace('cleanup:', '  - if: n > 1\n    steps:\n      - let: { never: n }\ncleanup:');
    const { ended, sent } = await coreRun(keepsNever, ok);
    expect(ended.slice(-3)).toEqual([
      expect.stringMatching(/^passed .*first$/),
      expect.stringMatching(/^skipped .*second$/),
      expect.stringMatching(/^passed .*third$/),
    ]);
    expect(sent.map(({ url }) => new URL(url).pathname)).toEqual(['/v1/a', '/v1/first/1', '/v1/third/1']);
  });

  test('failures in a row are counted anew behind an item that passed', async () => {
    const chain = chainOf(`- each: v in [1, 2, 3, 4, 5, 6]
  on-failure: continue
  max-consecutive-failures: 2
  steps:
    - call: a
      request: GET /{v}`);
    const fails = (url: string) => /\/(?:1|3|5|6)$/.test(url);
    const { sent } = await coreRun(chain, { answerTo: ({ url }) => ({ status: fails(url) ? 400 : 200, body: '{}' }) });
    expect(sent).toHaveLength(6);
    const other = await coreRun(chain, {
      answerTo: ({ url }) => ({ status: /[34]$/.test(url) ? 400 : 200, body: '{}' }),
    });
    expect(other.sent).toHaveLength(4);
  });

  test.each([
    ['', 301, 1],
    ['redirects: stop', 301, 0],
    ['', 204, 0],
    ['headers: { If-None-Match: \'"v1"\' }', 304, 0],
    ['', 304, 1],
  ])('without an expectation on it (%s) a status of %i ends with %i', async (more, status, exit) => {
    const chain = chainOf(`- call: a\n  request: GET /a\n${more === '' ? '' : `  ${more}`}`);
    expect((await coreRun(chain, { answers: [{ status, body: '' }] })).exit).toBe(exit);
  });

  test('the wait between polls is part of what the call waited', async () => {
    const chain = chainOf(`- call: a
  request: GET /job
  poll: { until: $.n == 2, every: 5s, within: 1m }`);
    const { events } = await coreRun(chain, {
      answers: [{ body: '{"n":1}' }, { body: '{"n":1}' }, { body: '{"n":2}' }],
    });
    expect(events.find(({ type }) => type === 'ended')).toMatchObject({ waitedMs: 10_000 });
  });
});

describe('a wait that the body asks for', () => {
  const chain = (after: string) =>
    chainOf(`- call: a\n  request: GET /a\n  retry: { tries: 3, wait: 1s, on: [503], after: ${after} }`);
  const busy = (body: string, headers: readonly (readonly [string, string])[] = []) => [
    { status: 503, body, headers },
    { body: '{}' },
  ];

  test.each<[string, string, readonly (readonly [string, string])[], number]>([
    ['$.estimated_time * 1s', '{"estimated_time": 20}', [], 20_000],
    ['$.estimated_time * 1s', '{"estimated_time": 20}', [['Retry-After', '30']], 30_000],
    ['$.estimated_time * 1s', '{"estimated_time": 20}', [['Retry-After', '5']], 20_000],
  ])('%s of %s %j', async (after, body, headers, waited) => {
    const run = await coreRun(chain(after), { answers: busy(body, headers) });
    expect([run.exit, run.waited]).toEqual([0, waited]);
  });

  test.each(['{}', '{"estimated_time": "soon"}', '{"estimated_time": -3}', 'not JSON'])(
    'a body that does not say it (%s) leaves it to wait',
    async (body) => {
      const run = await coreRun(chain('$.estimated_time * 1s'), { answers: busy(body) });
      expect(run.exit).toBe(0);
      expect(run.waited).toBeLessThanOrEqual(1000);
    },
  );
});
