import { readChain } from '../../src/core/chain/chain-file.ts';
import { readTable } from '../../src/core/chain/tables.ts';
import { allChainProblems, told } from '../support/chains.ts';
import { chainOf, coreRun } from '../support/engine.ts';
import { memoryFile } from '../support/hosts.ts';

const ok = [{ body: '{"id": "J-1", "n": 1}' }];
const bad = { status: 500, body: '{}' };

describe('each', () => {
  const loop = (more: string, list = '[3, 1, 2]') =>
    chainOf(`- each: v in ${list}\n  ${more.replaceAll('\n', '\n  ')}\n- say: "{json(all)}"\n`) + 'outputs: [all]\n';

  test('items have scopes of their own and loop.number; what is gathered is in the order of the array', async () => {
    const run = await coreRun(
      loop(
        'concurrency: 3\nsteps:\n  - call: a\n    request: GET /a/{v}\n    keep: { id: $.id }\n  - let: { twice: v * 2 }\ngather:\n  all: "{twice}.{loop.number}.{id}"',
      ),
      { answers: ok },
    );
    expect(run.outputs['all']).toEqual(['6.1.J-1', '2.2.J-1', '4.3.J-1']);
    expect(run.sent.map(({ url }) => url.slice(-1))).toEqual(['3', '1', '2']);
    expect(run.exit).toBe(0);
  });

  test.each([
    ['stop: no new item begins', 'steps: [{ call: a, request: "GET /a/{v}" }]', [bad], 1, 1],
    [
      'continue: the others go on, the run has failed all the same',
      'on-failure: continue\nsteps: [{ call: a, request: "GET /a/{v}" }]',
      [bad, ...ok, ...ok],
      1,
      3,
    ],
    [
      'no response at all stops even a continuing loop',
      'on-failure: continue\nsteps: [{ call: a, request: "GET /a/{v}" }]',
      [],
      3,
      1,
    ],
    [
      'max-consecutive-failures',
      'on-failure: continue\nmax-consecutive-failures: 2\nsteps: [{ call: a, request: "GET /a/{v}" }]',
      [bad],
      1,
      2,
    ],
    [
      'a stop that passed ends the chain',
      'steps:\n  - stop: enough\n    when: v == 1\n    as: passed\n  - call: a\n    request: GET /a/{v}',
      ok,
      0,
      1,
    ],
  ])('%s', async (_name, more, answers, exit, sent) => {
    const run = await coreRun(loop(`${more}\ngather: { all: "{v}" }`), { answers });
    expect([run.exit, run.sent.length]).toEqual([exit, sent]);
  });

  test('failed items have no entry, and the steps behind a continuing loop run', async () => {
    const run = await coreRun(
      loop('on-failure: continue\nsteps: [{ call: a, request: "GET /a/{v}" }]\ngather: { all: "{v}" }'),
      {
        answers: [...ok, bad, ...ok],
      },
    );
    expect(run.outputs['all']).toEqual([3, 2]);
    expect(run.ended).toContain('passed 2/say');
  });

  test('each item draws for itself, whatever the order; equal items are told apart', async () => {
    const draw = (concurrency: number) =>
      coreRun(
        loop(
          `concurrency: ${concurrency}\nsteps:\n  - call: a\n    request: GET /a\n    idempotency-key: true\ngather: { all: "{loop.number}" }`,
          '[5, 5, 6]',
        ),
        { answers: ok },
      );
    const keys = (run: Awaited<ReturnType<typeof draw>>) =>
      run.sent.map(({ headers }) => headers.find(([name]) => name === 'Idempotency-Key')![1]).sort();
    const [one, three] = [keys(await draw(1)), keys(await draw(3))];
    expect(new Set(one).size).toBe(3);
    expect(three).toEqual(one);
  });

  test('many failures are grouped, with what they have in common', async () => {
    const list = `${JSON.stringify(Array.from({ length: 12 }, (_, i) => ({ id: i, flag: i % 3 === 0 ? 'NO' : 'DK' })))}`;
    const run = await coreRun(
      chainOf(
        `- let: { ships: "parse_json('${list.replaceAll('"', '\\"')}')" }\n- each: v in ships\n  identified-by: v.id\n  on-failure: continue\n  steps:\n    - call: a\n      request: GET /a/{v.id}\n      expect: ["v.flag == 'DK'"]`,
      ),
      { answers: ok },
    );
    const ended = run.events.find((event) => event.type === 'ended' && event.kind === 'each');
    expect(ended).toMatchObject({
      counts: { done: 8, failed: 4, skipped: 0 },
      groups: [
        {
          step: 'a',
          code: 'expectation-false',
          count: 4,
          items: '1, 4, 7, 10',
          first: 1,
          common: ["flag is 'NO' in all 4, and in 0 of the 8 that passed"],
        },
      ],
    });
  });
});

describe('together, repeat, chains, cleanup and undo', () => {
  test('steps of one together see none of each other, and all is there behind it', async () => {
    const run = await coreRun(
      `${chainOf('- parallel:\n    - call: a\n      request: GET /a\n      keep: { x: $.id }\n    - call: b\n      request: GET /b\n      keep: { y: $.n }')}outputs: { both: "x + string(y)" }\n`,
      { answers: ok },
    );
    expect(run.outputs).toEqual({ both: 'J-11' });
  });

  test('a repeat carries names from round to round, pauses, and stays with its last round', async () => {
    const states = ['queued', 'inspecting', 'cleared'].map((state) => ({ body: JSON.stringify({ state }) }));
    const run = await coreRun(
      `${chainOf("- repeat: look\n  carry: { seen: '[]' }\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n    - let: { seen: 'flat([seen, [state]])' }\n  until: state == 'cleared'\n  every: 10s")}outputs: [seen, state]\n`,
      { answers: states },
    );
    expect(run.outputs).toEqual({ seen: ['queued', 'inspecting', 'cleared'], state: 'cleared' });
    expect(run.waited).toBe(20_000);
  });

  test('a used chain sees only what it takes; its secrets stay secret in what is kept', async () => {
    const { chain } = readChain({
      path: 'inner.chain.yaml',
      text: 'inputs: { id: string, note: { type: string, default: none } }\napi: harbour\nsteps:\n  - call: in\n    request: GET /in/{id}\n    keep: { token: secret($.id) }\noutputs: { token: token, note: note }\n',
    });
    const run = await coreRun(
      `${chainOf('- chain: inner.chain.yaml\n  inputs: { id: "a/b" }\n  keep: { t: outputs.token, n: outputs.note }\n- call: out\n  request: GET /out\n  headers: { X-T: "{t}" }')}outputs: [t, n]\n`,
      { answers: ok, chains: { 'inner.chain.yaml': chain! } },
    );
    expect(run.sent.map(({ url }) => new URL(url).pathname)).toEqual(['/v1/in/a%2Fb', '/v1/out']);
    expect(run.sent[1]!.headers).toContainEqual(['X-T', 'J-1']);
    expect(String(run.outputs['t'])).toBe('‹token›');
    expect(run.outputs['n']).toBe('none');
    expect(JSON.stringify(run.events.filter(({ type }) => type !== 'answered'))).not.toContain('J-1');
  });

  test('what was made is taken back newest first, once, then cleanup runs, however the chain went', async () => {
    const run = await coreRun(
      `${chainOf('- each: v in [1, 2]\n  steps:\n    - call: make\n      request: POST /things\n      json: { v: "{v}" }\n      keep: { id: $.id }\n      undo: DELETE /things/{v}\n- call: breaks\n  request: GET /breaks')}cleanup:\n  - call: close\n    request: POST /close\n    json: { how: "{run.outcome}", failed: "{length(run.failed)}" }\n  - call: never\n    request: GET /never/{gone ?? id2}\n  - say: end\n`.replace(
        '  - call: never\n    request: GET /never/{gone ?? id2}\n',
        '',
      ),
      { answers: [...ok, ...ok, bad, { status: 404 }, ...ok] },
    );
    expect(run.sent.map(({ method, url }) => `${method} ${new URL(url).pathname}`)).toEqual([
      'POST /v1/things',
      'POST /v1/things',
      'GET /v1/breaks',
      'DELETE /v1/things/2',
      'DELETE /v1/things/1',
      'POST /v1/close',
    ]);
    expect(run.sent.at(-1)!.body).toBe('{"how":"failed","failed":1}');
    expect(run.exit).toBe(1);
  });
});

test.each([
  [{ status: 201, body: '{"id": 2}' }, ['undo-failed']],
  [{ status: 409, body: '{"id": 2}' }, []],
])('a call that failed although it was done is not taken back, and says so', async (answer, codes) => {
  const steps = '- call: make\n  request: POST /things\n  expect: [$.id == 1]\n  undo: DELETE /things/1';
  const run = await coreRun(chainOf(steps), { answers: [answer] });
  expect(run.sent).toHaveLength(1);
  expect(run.events.flatMap((event) => (event.type === 'note' ? [event.code] : []))).toEqual(codes);
});

describe('rejects', () => {
  test('failed items stand in a table of their own, in the order of the list, with the step and the reason', async () => {
    const file = memoryFile('out/rejects.csv');
    const run = await coreRun(
      chainOf(
        '- each: v in parse_json(text)\n  concurrency: 3\n  on-failure: continue\n  rejects: out/rejects.csv\n  steps:\n    - stop: not {v.id}\n      when: v.id != 3',
        'inputs: { text: string }\n',
      ),
      {
        host: { rowsFile: () => file },
        inputs: { text: '[{"id": 1, "step": "x"}, {"id": 2, "parts": [7]}, {"id": 3}]' },
      },
    );
    expect(file.text()).toBe('id,step,parts,failed_step,reason\n1,x,,stop,not 1\n2,,[7],stop,not 2\n');
    expect(run.exit).toBe(1);
    expect(run.events.filter(({ type }) => type === 'file')).toMatchObject([{ path: 'out/rejects.csv', rows: 2 }]);
  });

  test('of what is no object there is one column', async () => {
    const file = memoryFile('out/rejects.ndjson');
    const steps = '- each: v in [4]\n  rejects: out/rejects.ndjson\n  steps: [{ stop: no }]';
    await coreRun(chainOf(steps), { host: { rowsFile: () => file } });
    expect(file.text()).toBe('{"item":4,"step":"stop","reason":"no"}\n');
  });
});

describe('paging', () => {
  test('a list of the last page where one value seemed to stand', async () => {
    const run = await coreRun(
      chainOf('- call: a\n  request: GET /a\n  paging: { next: $.next, items: $.ids }\n  keep: { all: $.ids }'),
      { answers: [{ body: '{"ids": [1]}' }] },
    );
    expect(run.codes).toEqual(['use-items']);
    expect(run.events.at(-2)).toMatchObject({ problem: { advice: 'Write items, the array over all pages.' } });
  });

  const page = (ids: readonly number[], next: string | null) => ({ body: JSON.stringify({ ids, next, total: 5 }) });
  test('by the next URL: items of all pages, status on each, single values of the last', async () => {
    const run = await coreRun(
      `${chainOf("- call: a\n  request: GET /a?limit=2\n  paging: { next: $.next, items: $.ids }\n  expect:\n    - status == 200\n    - length(items) == $.total\n    - page_count == 3\n  keep: { all: items, last: $.next ?? 'none' }")}outputs: [all, last]\n`,
      { answers: [page([1, 2], '?p=2'), page([3, 4], '/v1/a?p=3'), page([5], null)] },
    );
    expect(run.outputs).toEqual({ all: [1, 2, 3, 4, 5], last: 'none' });
    expect(run.sent.map(({ url }) => url.replace(/^.*\/v1/, ''))).toEqual(['/a?limit=2', '/a?p=2', '/a?p=3']);
  });

  test('by a query, in place of the parameter of the first page; max-pages with then: stop', async () => {
    const run = await coreRun(
      `${chainOf('- call: a\n  request: GET /a?page=1&day=x\n  paging:\n    query: { page: "{page_count + 1}" }\n    while: $.next != null\n    items: $.ids\n    max-pages: { count: 2, then: stop }\n  keep: { n: length(items) }')}outputs: [n]\n`,
      { answers: [page([1], 'x'), page([2], 'x')] },
    );
    expect(run.outputs).toEqual({ n: 2 });
    expect(run.sent.map(({ url }) => new URL(url).search)).toEqual(['?page=1&day=x', '?day=x&page=2']);
  });

  test('a page that fails is named; a page without its list too', async () => {
    const chain = chainOf('- call: a\n  request: GET /a\n  paging: { next: $.next, items: $.ids }');
    const failing = await coreRun(chain, { answers: [page([1], '?p=2'), { status: 500, body: '{}' }] });
    expect(JSON.stringify(failing.events)).toContain('expected 2xx, on page 2');
    const lacking = await coreRun(chain, { answers: [page([1], '?p=2'), { body: '{}' }] });
    expect(lacking.codes).toEqual(['found-nothing']);
  });
});

/** So many loops, each inside the one before. */
const deepLoops = (count: number, indent = ''): string =>
  count === 0
    ? `${indent}- say: x`
    : `${indent}- each: v${count} in [1]\n${indent}  steps:\n${deepLoops(count - 1, `${indent}    `)}`;

describe('what check says of them', () => {
  test.each([
    ['- each: v in [1]\n  steps:\n    - let: { x: v }\n- say: "{x}"', 'kept-in-loop'],
    ['- say: "{loop.number}"', 'unknown-name'],
    ['- parallel:\n    - let: { x: 1 }\n    - let: { y: x }\n- say: "{y}"', 'used-too-early'],
    ['- parallel:\n    - let: { x: 1 }\n    - let: { x: 2 }\n- say: "{x}"', 'duplicate-name'],
    ['- let: { v: 1 }\n- each: v in [v]\n  steps:\n    - say: "{v}"', 'hides-name'],
    ['- each: v of [1]\n  steps: []', 'does-not-parse'],
    ['- call: a\n  request: GET /a\n  paging: { items: $.ids }', 'page-cannot-turn'],
    ['- call: a\n  request: GET /a\n  save: x\n  paging: { next: $.next }', 'keys-clash'],
    ['- write: a.csv\n  row: { id: 1 }\n  update-by: ic', 'no-such-column'],
    ['- parallel:\n    - write: a.csv\n      rows: "[]"\n    - write: a.csv\n      rows: "[]"', 'duplicate-file'],
    [deepLoops(17), 'over-limit'],
    ['- write: a.json\n  rows: "[]"\n  append: true', 'keys-clash'],
    ['- call: a\n  request: GET /a\n  expect: [polls == 1]', 'unknown-name'],
    ['- listen: x\n- receive: x\n  expect: [status == 200]', 'unknown-name'],
    [
      '- call: a\n  request: GET /a\n  paging: { next: $.n, items: $.a }\n  keep: { b: response.items, n: page_count }',
      'never-used',
    ],
  ])('%s', (steps, code) => {
    expect(told(allChainProblems(chainOf(steps))).map((each) => each.split(' ')[0])).toContain(code);
  });
});

describe('tables', () => {
  const source = (text: string, name: string) => ({
    name,
    chunks: async function* () {
      yield Buffer.from(text);
    },
  });
  test.each([
    ['t.csv', 'id;qty\n1;2\n', /Its only column is .*add separator: .*;/],
    ['t.csv', 'id,qty,id\n1,2,3\n', /its header has the column .*id.* twice/],
    ['t.json', '[{"qty": 1}, 3]', /is not an array of rows: row 2 is 3/],
    ['t.csv', 'id,qty\n1,a"b\n', /a quote inside a cell .* in line 2/],
  ])('what is no table is told: %s %j', async (name, text, message) => {
    expect(JSON.stringify(await readTable(source(text, name), input('columns: { qty: integer }'), 'UTC'))).toMatch(
      message,
    );
  });

  const input = (columns: string) => {
    const { chain } = readChain({
      path: 'c.chain.yaml',
      text: `inputs:\n  t: { type: table, ${columns} }\nsteps: []\n`,
    });
    return chain!.inputs[0]!;
  };
  test('a byte-order mark, quoted line breaks, another separator; empty cells of typed columns are null', async () => {
    const text = '\ufeffid;qty;note\r\n1;2;"a\nb; c"\r\n2;;\r\n';
    expect(await readTable(source(text, 't.csv'), input('separator: ";", columns: { qty: integer }'), 'UTC')).toEqual({
      rows: [
        { id: '1', qty: 2, note: 'a\nb; c' },
        { id: '2', qty: null, note: '' },
      ],
    });
    expect(await readTable(source('{"id": 1}\n{"id": 2}\n', 't.ndjson'), input('columns: {}'), 'UTC')).toEqual({
      rows: [{ id: 1 }, { id: 2 }],
    });
  });

  test('every bad cell is counted, with its row and column', async () => {
    const read = await readTable(
      source('id,qty\n1,x\n2,3\n3,1.5\n', 't.csv'),
      input('columns: { qty: integer }'),
      'UTC',
    );
    expect(read).toMatchObject({ diagnostics: [{ code: 'invalid-cell' }] });
    expect(JSON.stringify(read)).toMatch(
      /2 cells of the table t\.csv do not fit.*row 2, qty: 'x' .*row 4, qty: '1\.5'/,
    );
  });
});
