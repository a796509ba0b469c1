import { chainProblems, told } from '../support/chains.ts';

/** A chain of one call with some lines of its own; they begin at line 4. */
const call = (...lines: readonly string[]): string =>
  ['steps:', '  - call: one', '    request: GET /a', ...lines.map((line) => `    ${line}`), ''].join('\n');

const post = (...lines: readonly string[]): string => call(...lines).replace('GET', 'POST');

describe('files without mistakes', () => {
  test.each([
    ['the least there is', call()],
    [
      'everything',
      'name: n\nabout: a\ntags: [x]\napi: harbour\ninputs:\n  day: date\n  n: { type: integer, default: 3 }\n  flag: { type: string, optional: true, about: b }\n' +
        call(
          'query: { day: "{day}", n: "{n}", flag: "{flag}" }',
          'headers: { X-Quay: "{setting.quay}" }',
          'timeout: { whole: 5s, idle: 1s }',
          'expect:',
          '  - status == 200',
          '  - $.n == n',
          "  - headers.content_type == 'a' || response.status == 200",
          'keep: { x: $.x, y: x + 1 }',
        ) +
        'outputs: [x, y]\n',
    ],
    ['a kept condition is a condition', call('keep: { ready: $.a == 1 }') + '  - expect: [ready]\n'],
    [
      'a boolean input is a condition',
      'inputs: { strict: { type: boolean, default: false } }\n' + call('expect: [strict || $.a == 1]'),
    ],
    [
      'an expectation with its reason',
      call('expect:', '  - { that: $.a == 1, because: it was agreed }', '  - that: $.b == 2'),
    ],
    ['an absolute URL needs no api', call().replace('GET /a', 'GET http://127.0.0.1:1/a')],
    ['auth of a call', call('auth: none') + '  - call: two\n    request: GET /b\n    auth: { bearer: "{secret.K}" }\n'],
  ])('%s', (_name, text) => expect(chainProblems(text)).toEqual([]));
});

describe('mistakes', () => {
  const rows: readonly (readonly [name: string, text: string, found: string, advice?: string])[] = [
    ['unknown top key', `${call()}expects: []\n`, 'unknown-key 4:1'],
    ['unknown key by spelling', call('expects:', '  - status == 200'), 'unknown-key 4:5', 'expect'],
    ['unknown key by meaning', call('assert:', '  - status == 200'), 'unknown-key 4:5', 'expect'],
    ['extract means keep', call('extract: { a: $.a }'), 'unknown-key 4:5', 'keep'],
    ['body means json', call('body: { a: 1 }'), 'unknown-key 4:5', 'json'],
    ['unknown kind of step', 'steps:\n  - cal: one\n    request: GET /a\n', 'unknown-key 2:5', 'call'],
    ['no steps', 'name: x\n', 'key-missing 1:1'],
    ['steps of the wrong kind', 'steps: {}\n', 'wrong-type 1:1'],
    ['a step that is a text', 'steps:\n  - GET /a\n', 'wrong-type 2:5'],
    ['no request', 'steps:\n  - call: one\n', 'key-missing 2:5'],
    ['expect that is no list', call('expect: status == 200'), 'wrong-type 4:13'],
    ['keep that is no mapping', call('keep: $.a'), 'wrong-type 4:11'],
    ['unknown type of input', 'inputs: { day: dat }\n' + call(), 'wrong-type 1:16', 'date'],
    [
      'unknown key of an input',
      'inputs: { day: { type: date, defualt: x } }\n' + call(),
      'unknown-key 1:30',
      'default',
    ],
    [
      'default of an optional input',
      'inputs: { a: { type: string, default: x, optional: true } }\n' + call(),
      'keys-clash 1:11',
    ],
    ['a bad duration', call('timeout: 10 seconds'), 'invalid-duration 4:14', '250ms'],
    ['a bad duration inside', call('timeout: { whole: x }'), 'invalid-duration 4:23'],
    ['unknown phase', call('timeout: { total: 1s }'), 'unknown-key 4:16'],
    ['expression that does not parse', call('expect:', '  - $.a = 1'), 'does-not-parse 5:13'],
    ['the place inside quotes', call('expect:', '  - "$.a = 1"'), 'does-not-parse 5:14'],
    ['a missing expression', call('keep:', '  a:'), 'does-not-parse 5:8'],
    ['a placeholder that does not close', call('query: { a: "{b" }'), 'invalid-placeholder 4:20'],
    ['placeholder in a key', post('json: { "{a}": 1 }'), 'placeholder-in-key 4:13'],
    ['a number that YAML changes', post('json: { zip: 01234 }'), 'number-rewritten 4:18', "'01234'"],
    ['unknown name', call('query: { a: "{b}" }'), 'unknown-name 4:19'],
    [
      'unknown name near another',
      'inputs: { vessel: string }\n' + call('query: { a: "{vesel}" }'),
      'unknown-name 5:19',
      'vessel',
    ],
    ['a bare word', call('keep: { greeting: hello }'), 'bare-word 4:23', "'hello'"],
    [
      'used too early',
      call('query: { a: "{b}" }') + '  - call: two\n    request: GET /b\n    keep: { b: $.b }\n',
      'used-too-early 4:19',
      'two',
    ],
    ['expect does not see its own keep', call('keep: { a: $.a }', 'expect: [a == 1]'), 'used-too-early 5:14'],
    [
      'kept twice',
      call('keep: { a: $.a }') + '  - call: two\n    request: GET /b\n    keep: { a: $.b }\n',
      'duplicate-name 7:13',
    ],
    ['an input kept again', 'inputs: { a: string }\n' + call('keep: { a: $.a }'), 'duplicate-name 5:13'],
    ['a reserved name', call('keep: { loop: $.a }'), 'reserved-name 4:13'],
    ['a hyphen in a name', call('keep: { job-id: $.a }'), 'invalid-name 4:13', 'job_id'],
    ['a name of the response', call('keep: { status: $.a }'), 'shadows-response 4:13'],
    ['a response where there is none', call('query: { a: "{status}" }'), 'no-response-here 4:19'],
    ['a body where there is none', call('query: { a: "{$.a}" }'), 'no-response-here 4:19'],
    ['@ outside of a filter', call('expect: [@.a == 1]'), 'not-yaml 4:14'],
    ['@ outside of a filter, quoted', call('expect: ["@.a == 1"]'), 'does-not-parse 4:15'],
    ['setting that a deployment lacks', call('query: { a: "{setting.pier}" }'), 'setting-missing 4:19'],
    ['an unknown api', `api: harbor\n${call()}`, 'unknown-api 1:6', 'harbour'],
    ['an unknown api of a call', call('api: x'), 'unknown-api 4:10'],
    ['an unknown function', call('expect: [size($) > 1]'), 'unknown-function 4:14', 'length'],
    ['duplicate name of a call', call() + '  - call: one\n    request: GET /b\n', 'duplicate-call 4:11'],
    ['a path alone', call('expect: [$.ready]'), 'not-a-condition 4:14', 'exists($.ready)'],
    ['a name alone', 'inputs: { a: string }\n' + call('expect: [a]'), 'not-a-condition 5:14'],
    ['always true', call('expect: ["true"]'), 'always-same 4:15'],
    ['nothing of the response', 'inputs: { a: number }\n' + call('expect: [a > 3]'), 'nothing-to-check 5:14'],
    ['equals but for all of it', call('expect: [{ equals: { a: 1 }, except: [$] }]'), 'nothing-to-check 4:43'],
    ['a header of the transport', call('headers: { Host: x }'), 'reserved-header 4:16'],
    ['a header that cannot be', call('headers: { "a b": x }'), 'reserved-header 4:16'],
    ['a parameter twice', call('query: { day: x }').replace('/a', '/a?day=1'), 'duplicate-parameter 4:14'],
    [
      'a parameter twice by name',
      'inputs: { day: string }\n' + call('query: { day: x }').replace('/a', '/a{?day}'),
      'duplicate-parameter 5:14',
    ],
    ['a body on GET', call('json: { a: 1 }'), 'body-unexpected 3:14'],
    ['a path sent as words', call('query: { a: $.id }'), 'sent-literally 4:17'],
    ['a name sent as words', 'inputs: { day: string }\n' + call('query: { a: day }'), 'sent-literally 5:17', '{day}'],
    ['a let that reads a response', 'steps:\n  - let: { b: $.a }\n', 'no-response-here 2:15'],
    ['a let that uses what comes later', 'steps:\n  - let: { b: c, c: "1" }\n', 'used-too-early 2:15'],
    ['an unknown key beside say', 'steps:\n  - say: x\n    abuot: y\n', 'unknown-key 3:5', 'about'],
    [
      'an empty expectation',
      'steps:\n  - call: a\n    request: GET http://a.example/\n    expect:\n      - {}\n',
      'key-missing 5:9',
      'An expectation is an expression',
    ],
    ['a reason without an expectation', call('expect:', '  - because: x'), 'key-missing 5:9'],
    ['an expectation that is a list', call('expect:', '  - [1]'), 'wrong-type 5:9'],
    ['two schemes', call('auth: { bearer: x, api-key: { header: a, value: b } }'), 'wrong-type 4:5'],
    ['a key in no place', call('auth: { api-key: { value: b } }'), 'wrong-type 4:13'],
  ];
  test.each(rows.map((row) => [row[0], row] as const))('%s', (_name, [, text, found, advice = '']) => {
    const diagnostics = chainProblems(text);
    expect(told(diagnostics)).toEqual([found]);
    expect(diagnostics[0]!.advice ?? '').toContain(advice);
  });

  test('all are told in one go, in order of place, and one hides no other', () => {
    const text =
      'inputs: { d: dat }\nsteps:\n  - call: one\n    request: get /a\n    expcet: []\n    json: { a: "{b}" }\n    keep: { a-b: $.a }\n  - cal: x\n';
    expect(told(chainProblems(text)).map((each) => each.split(' ')[0])).toEqual([
      'wrong-type',
      'no-method',
      'unknown-key',
      'unknown-key',
      'unknown-name',
      'invalid-name',
    ]);
  });

  test('a step that is broken still binds what it would have kept', () => {
    const text = 'steps:\n  - call: one\n    keep: { a: $.a }\n  - call: two\n    request: GET /{a}\n';
    expect(told(chainProblems(text))).toEqual(['key-missing 2:5']);
  });
});
