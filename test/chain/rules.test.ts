import { correctedLine } from '../../src/core/diagnostics/fix.ts';
import { allChainProblems, chainProblems, told } from '../support/chains.ts';
import { chainOf } from '../support/engine.ts';

/** A chain whose call `a` expects something. */
const expecting = (...entries: readonly string[]) =>
  chainOf(`- call: a\n  request: GET /a\n  expect:\n${entries.map((entry) => `    - ${entry}`).join('\n')}`);

const codes = (text: string) => chainProblems(text).map(({ code }) => code);

describe('always-same', () => {
  test.each([
    ["status == '200'", 'Write 200 without quotes.'],
    ["'200' == status", 'Write 200 without quotes.'],
    ['status == $.n && took < 800', 'as in 500ms'],
    ["1 == '1'", ''],
    ['1 + 1 == 2', ''],
    ["length($.list) == 'three'", "number('three')"],
    ['headers.etag == 5', 'string(5)'],
    ["now() > '2026-05-23'", "date_time('2026-05-23')"],
    ['url != 5', 'without quotes|nothing is converted|string(5)'],
  ])('%s', (condition, advice) => {
    const found = chainProblems(expecting(`"${condition}"`));
    expect(found.map(({ code }) => code)).toEqual(['always-same']);
    expect(advice.split('|').some((each) => found[0]!.advice!.includes(each))).toBe(true);
  });

  test.each([
    'status == 200',
    '$.a == 1',
    "$.a == '1'",
    'took < 800ms',
    '$.a == null',
    "headers.etag == 'x'",
    '$.at > date_time(now())',
    'length($.x) == $.n',
  ])('not: %s', (condition) => expect(codes(expecting(`"${condition}"`))).toEqual([]));
});

describe('wrong-argument by kind', () => {
  test.each(["upper(status) == 'X'", "contains(took, 'x')", "url + 1 == 'x'", 'took + 1 == 2s', 'sum(url) == 1'])(
    '%s',
    (condition) => {
      expect(codes(expecting(`"${condition}"`))).toEqual(['wrong-argument']);
    },
  );

  test.each(["upper($.a) == 'X'", 'size + 1 == 2', 'took + 1s < 3s', 'length(url) > 3'])('not: %s', (condition) => {
    expect(codes(expecting(`"${condition}"`))).toEqual([]);
  });
});

describe('needless-fallback', () => {
  test.each(['(status ?? 0) == 200', '(1 ?? 2) == $.a'])('%s', (condition) => {
    expect(codes(expecting(`"${condition}"`))).toEqual(['needless-fallback']);
  });
  test.each(['($.a ?? 0) == 200', '(headers.etag ?? null) == null', '($.a ?? $.b ?? 1) == 1'])(
    'not: %s',
    (condition) => {
      expect(codes(expecting(`"${condition}"`))).toEqual([]);
    },
  );
  test('of an input that is always given', () => {
    expect(codes(chainOf('- say: "{day ?? 1}"', 'inputs: { day: date }\n'))).toEqual(['needless-fallback']);
    expect(codes(chainOf('- say: "{day ?? 1}"', 'inputs: { day: { type: date, optional: true } }\n'))).toEqual([]);
    expect(codes(chainOf('- say: "{body ?? 1}"', 'inputs: { body: json }\n'))).toEqual([]);
  });
});

describe('contradictory-expectations', () => {
  test.each([
    [['status == 200', 'status == 201']],
    [['status in [200, 201]', '404 == status']],
    [["$.a == 'x'", "$['a'] == 'y'"]],
  ])('%j', (entries) => expect(codes(expecting(...entries))).toEqual(['contradictory-expectations']));
  test.each([
    [['status == 200', '$.a == 1']],
    [['status in [200, 201]', 'status == 200']],
    [['$.a == 1', '$.b == 2']],
    [['$.a == 1', '$.a == 1.0']],
  ])('not: %j', (entries) => expect(codes(expecting(...entries))).toEqual([]));
});

describe('maybe-missing', () => {
  const inputs = 'inputs: { flag: { type: string, optional: true }, x: integer }\n';
  const kept = '- let: { a: 1 }\n  when: x > 1\n';
  test.each([
    ['a step with when', `${kept}- say: "{a}"`],
    ['one arm', '- if: x > 1\n  steps: [{ let: { a: "1" } }]\n- say: "{a}"'],
    ['the other arm', '- if: x > 1\n  steps: [{ say: a }]\n  otherwise: [{ let: { a: "1" } }]\n- say: "{a}"'],
    ['on-failure: continue', '- call: c\n  request: GET /c\n  on-failure: continue\n  keep: { a: $.a }\n- say: "{a}"'],
    ['an optional input', '- say: "{flag}"'],
    ['part of a URL', '- call: c\n  request: GET /c/{flag}'],
  ])('%s', (_name, steps) => expect(codes(chainOf(steps, inputs))).toContain('maybe-missing'));

  test.each([
    ['with a fallback', `${kept}- say: "{a ?? 0}"`],
    ['asked for', `${kept}- let: { there: exists(a) }\n- say: "{there}"`],
    ['under the same condition', `${kept}- say: "{a}"\n  when: x > 1`],
    ['under exists', `${kept}- say: "{a}"\n  when: exists(a)`],
    ['under a comparison with it', `${kept}- say: "{a}"\n  when: exists(a) && x > 3`],
    ['both arms', '- if: x > 1\n  steps: [{ let: { a: "1" } }]\n  otherwise: [{ let: { a: "2" } }]\n- say: "{a}"'],
    ['inside its arm', '- if: x > 1\n  steps: [{ let: { a: "1" } }, { say: "{a}" }]'],
    [
      'a parameter that is left out',
      '- call: c\n  request: GET /c{?flag}\n  query: { f: "{flag}" }\n  headers: { F: "{flag}" }',
    ],
    ['a member that is left out', '- call: c\n  request: POST /c\n  json: { f: "{flag}" }'],
  ])('not: %s', (_name, steps) =>
    expect(codes(chainOf(steps, inputs)).filter((code) => code === 'maybe-missing')).toEqual([]),
  );

  test('not in gives', () => {
    expect(codes(`${chainOf(kept, inputs)}outputs: [a]\n`)).toEqual([]);
  });
});

describe('names in branches', () => {
  test('the same name may be kept in both arms, and not again behind them', () => {
    const arms = '- if: x > 1\n  steps: [{ let: { a: "1" } }]\n  otherwise: [{ let: { a: "2" } }]\n';
    expect(codes(chainOf(arms, 'inputs: { x: integer }\n'))).toEqual([]);
    expect(codes(chainOf(`${arms}- let: { a: 3 }`, 'inputs: { x: integer }\n'))).toEqual(['duplicate-name']);
  });
  test('an arm does not see the names of the other', () => {
    const steps = '- if: x > 1\n  steps: [{ let: { a: "1" } }]\n  otherwise: [{ say: "{a}" }]';
    expect(codes(chainOf(steps, 'inputs: { x: integer }\n'))).toEqual(['used-too-early']);
  });
});

describe('never-used and never-runs', () => {
  const all = (text: string) => told(allChainProblems(text));
  test('a value that nobody reads', () => {
    expect(all(chainOf('- let: { a: 1, b: 2 }\n- say: "{a}"'))).toEqual(['never-used 3:18']);
  });
  test('steps behind a stop, and under false', () => {
    expect(all(chainOf('- stop: x\n- say: y'))).toEqual(['never-runs 4:10']);
    expect(all(chainOf('- stop: x\n  when: status_of > 1\n- say: y', 'inputs: { status_of: integer }\n'))).toEqual([]);
    expect(all(chainOf('- say: y\n  when: false'))).toEqual(['never-runs 4:11']);
  });
});

describe('secrets', () => {
  test.each([
    ['in the target', '- call: a\n  request: GET /a/{secret.K}', 'secret-shown'],
    ['in the query', '- call: a\n  request: GET /a\n  query: { k: "{secret.K}" }', 'secret-shown'],
    ['said', '- say: "{secret.K}"', 'secret-shown'],
    ['by another name', '- let: { k: upper(secret.K) }\n- say: "{k}"', 'secret-shown'],
    ['marked', '- let: { k: secret(uuid()) }\n- say: "{k}"', 'secret-shown'],
    [
      'a literal token',
      '- call: a\n  request: GET /a\n  headers: { Authorization: Bearer abcdefgh12 }',
      'looks-like-secret',
    ],
    [
      'a password in a form',
      '- call: a\n  request: POST /a\n  form: { user: mole, password: hush }',
      'looks-like-secret',
    ],
    [
      'a token in JSON',
      '- call: a\n  request: POST /a\n  json: { a: [{ apiToken: kvitnes-12 }] }',
      'looks-like-secret',
    ],
    [
      'a key in a header by any name',
      '- call: a\n  request: GET /a\n  headers: { harbour-key: x1 }',
      'looks-like-secret',
    ],
    [
      'a placeholder of documentation',
      '- call: a\n  request: GET /a\n  query: { berth: YOUR_BERTH }',
      'looks-like-placeholder',
    ],
    ['the same in a body', '- call: a\n  request: POST /a\n  json: { id: "<vessel id>" }', 'looks-like-placeholder'],
    ['a literal key by its name', '- call: a\n  request: GET /a\n  query: { api_key: kvitnes12 }', 'looks-like-secret'],
    [
      'a token by its form',
      '- call: a\n  request: GET /a\n  headers: { X-Pier: eyJhbGciOiJIUzI1NiJ9.eyJzdWIiOiIxIn0.x }',
      'looks-like-secret',
    ],
  ])('%s', (_name, steps, code) => expect(codes(chainOf(steps))).toEqual([code]));

  test.each([
    ['in a header', '- call: a\n  request: GET /a\n  headers: { X-Key: "{secret.K}" }'],
    ['its length', '- say: "{length(secret.K)}"'],
    [
      'an ordinary header',
      '- call: a\n  request: GET /a\n  headers: { Accept: application/json, X-Request-Id: 2026-05-23-0001 }',
    ],
  ])('not: %s', (_name, steps) => expect(codes(chainOf(steps))).toEqual([]));
});

describe('functions of the response', () => {
  test.each(["link('next')", "absolute_url('x')", "xpath('//a')"])('%s means nothing without one', (call) => {
    expect(codes(chainOf(`- let:\n    x: ${call}\n- say: "{x}"`))).toEqual(['no-response-here']);
  });
  test.each([
    ['run.id', 'only-at-the-end'],
    ['index', 'unknown-name'],
    ['outputs.x', 'unknown-name'],
  ])('%s', (name, code) => expect(codes(chainOf(`- say: "{${name}}"`))).toEqual([code]));
});

describe('corrections of names', () => {
  test.each([
    ['- let: { vessel: 1 }\n- say: "{vesel}"', '  - say: "{vessel}"'],
    ['- let:\n    greeting: hello\n- say: "{greeting}"', '      greeting: "\'hello\'"'],
    ['- let: { berth: 1 }\n- call: a\n  request: POST /a\n  json:\n    b: berth', '      b: "{berth}"'],
    ['- let:\n    due-day: 1', '      due_day: 1'],
    ['- call: a\n  request: GET /a\n  asserts: [status == 200]', '    expect: [status == 200]'],
    ['- let:\n    a: "{b}"', '      a: "b"'],
    ['- let:\n    a: now() > 2026-05-23', "      a: now() > date_time('2026-05-23')"],
    ['- call: a\n  request: POST /a\n  json:\n    zip: 01234', "      zip: '01234'"],
  ])('%s', (steps, corrected) => {
    expect(chainProblems(chainOf(steps)).map(correctedLine)).toContain(corrected);
  });
});
