import fc from 'fast-check';
import { curl } from '../../src/core/draft/curl.ts';
import { draftOf, type Draft } from '../../src/core/draft/draft.ts';
import type { DraftRequest } from '../../src/core/draft/request.ts';
import { shellQuoted, shellWords } from '../../src/core/draft/shell-words.ts';

const U = 'https://harbour.example/v1';

function read(line: string): DraftRequest {
  const found = curl.read(line, {});
  if ('message' in found) throw new Error(found.message);
  return found.samples[0]!.request;
}

/** What commands become where nothing is there yet. */
function draft(...lines: readonly string[]): Draft {
  return draftOf(
    lines.map((line) => ({ request: read(line) })),
    {
      apiOf: () => undefined,
      nameOf: () => 'harbour',
      secrets: new Map(),
      calls: new Set(),
      names: new Set(),
      chainApi: undefined,
      kept: [],
      responses: [],
      callName: 'a',
    },
  );
}

describe('words of a shell', () => {
  test.each([
    ['a b  c', ['a', 'b', 'c']],
    ['\'a b\' "c d"', ['a b', 'c d']],
    ['a\\\n b', ['a', 'b']],
    ['a \\\r\n b', ['a', 'b']],
    ["'it'\\''s'", ["it's"]],
    ['"a \\"b\\" \\$c \\d"', ['a "b" $c \\d']],
    ["$'a\\n\\'b\\u0041'", ["a\n'bA"]],
    ["''", ['']],
    ['a"b"\'c\'', ['abc']],
    ['a\\ b', ['a b']],
  ])('%s', (line, words) => expect(shellWords(line)).toEqual(words));

  test.each(["'a", '"a', "$'a\\'"])('%s is not closed', (line) => expect(shellWords(line)).toHaveProperty('message'));

  test('what is quoted is read back', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ minLength: 1 })), (words) =>
        expect(shellWords(words.map(shellQuoted).join(' '))).toEqual(words),
      ),
    );
  });
});

describe('curl command lines', () => {
  test.each<[string, Partial<DraftRequest>]>([
    [`curl ${U}/berths`, { method: 'GET', url: `${U}/berths`, query: [], headers: [] }],
    [
      `$ curl -sSL '${U}/a?x=1&y=a%20b&x=2'`,
      {
        query: [
          ['x', '1'],
          ['y', 'a b'],
          ['x', '2'],
        ],
      },
    ],
    [`curl -X DELETE ${U}/a`, { method: 'DELETE' }],
    [`curl --request=PATCH ${U}/a`, { method: 'PATCH' }],
    [`curl -XPUT ${U}/a`, { method: 'PUT' }],
    [`curl -I ${U}/a`, { method: 'HEAD' }],
    [
      `curl -H 'Accept: text/csv' -H "X-Pier:N" -H 'Empty:' ${U}/a`,
      {
        headers: [
          ['Accept', 'text/csv'],
          ['X-Pier', 'N'],
        ],
      },
    ],
    [
      `curl -d '{"a": 1}' -H 'Content-Type: application/json' ${U}/a`,
      { method: 'POST', headers: [], body: { kind: 'json', text: '{"a": 1}' } },
    ],
    [`curl -d '{"a": 1}' ${U}/a`, { body: { kind: 'json', text: '{"a": 1}' } }],
    [`curl --json '[1]' ${U}/a`, { headers: [['Accept', 'application/json']], body: { kind: 'json', text: '[1]' } }],
    [
      `curl -d a=1 -d b=x%20y ${U}/a`,
      {
        // A form would write it `x+y`, and bodies are kept to the byte.
        body: { kind: 'text', text: 'a=1&b=x%20y', type: 'application/x-www-form-urlencoded' },
      },
    ],
    [`curl -d 'note=due+%26+soon' ${U}/a`, { body: { kind: 'form', fields: [['note', 'due & soon']] } }],
    [
      `curl --data-urlencode 'note=due & soon' ${U}/a`,
      {
        body: { kind: 'text', text: 'note=due%20%26%20soon', type: 'application/x-www-form-urlencoded' },
      },
    ],
    [
      `curl -G -d day=2026-05-23 ${U}/a?x=1`,
      {
        method: 'GET',
        query: [
          ['x', '1'],
          ['day', '2026-05-23'],
        ],
        body: undefined,
      },
    ],
    [
      `curl -d 'hello there' -H 'Content-Type: text/plain' ${U}/a`,
      { headers: [], body: { kind: 'text', text: 'hello there', type: 'text/plain' } },
    ],
    [`curl -u pilot:s3cret ${U}/a`, { basic: 'pilot:s3cret' }],
    [
      `curl -b 'a=1; b=2' -A tester -e https://x.example ${U}/a`,
      {
        headers: [
          ['User-Agent', 'tester'],
          ['Referer', 'https://x.example'],
          ['Cookie', 'a=1; b=2'],
        ],
      },
    ],
    [`curl -m 2.5 --url ${U}/a`, { url: `${U}/a`, timeout: '2.5s' }],
    [`curl harbour.example/a`, { url: 'http://harbour.example/a' }],
    [`curl ${U}/a | jq .`, { url: `${U}/a` }],
    [`curl -sXPOST -d 'x' -- ${U}/a`, { method: 'POST' }],
  ])('%s', (line, expected) => expect(read(line)).toMatchObject(expected));

  test('what has no counterpart is named', () => {
    expect(curl.read(`curl -k -o out.json --retry 3 --strange -L ${U}/a`, {})).toMatchObject({
      notes: [
        expect.stringContaining('-k is left out: certificates are verified'),
        '-o is left out: save: writes a response to a file',
        '--retry is ignored',
        '--strange is ignored',
      ],
    });
  });

  test.each([
    [
      `-F a=@x.png -F 'b=@y;type=text/csv' -F c=d --form-string e=@f`,
      'POST',
      {
        kind: 'multipart',
        fields: [
          { name: 'a', file: 'x.png' },
          { name: 'b', file: 'y', type: 'text/csv' },
          { name: 'c', text: 'd' },
          { name: 'e', text: '@f' },
        ],
      },
    ],
    [
      '--data-binary @cargo.csv -H "Content-Type: text/csv"',
      'POST',
      { kind: 'file', path: 'cargo.csv', type: 'text/csv' },
    ],
    ['--json @order.json', 'POST', { kind: 'file', path: 'order.json', type: 'application/json' }],
    ['-T chart.png', 'PUT', { kind: 'file', path: 'chart.png', type: undefined }],
  ])('files: %s', (options, method, body) => {
    expect(curl.read(`curl ${options} ${U}/a`, {})).toMatchObject({
      samples: [{ request: { method, body } }],
      notes: [],
    });
  });

  test.each(['wget https://x.example', 'curl', "curl 'open"])('%s is answered with what to do', (line) =>
    expect(curl.read(line, {})).toHaveProperty('message'),
  );
});

describe('a call is written', () => {
  const written = (line: string) => draft(line).calls[0]!.lines.join('\n');

  test('values keep their kinds, and texts that look like others get quotes', () => {
    const body =
      '{"zip": "01234", "n": 1.10, "big": 12345678901234567890, "yes": "yes", "none": null, "text": "a {x} b", "list": [{"a": "b: c"}, []], "deep": {"e": {}}}';
    expect(written(`curl --json '${body}' -H 'Accept: x' '${U}/a?n=1&m=a'`)).toBe(`call: a
request: POST /a
query:
  n: "1"
  m: a
headers:
  Accept: x
json:
  zip: "01234"
  n: 1.10
  big: 12345678901234567890
  yes: "yes"
  none: null
  text: "a {{x}} b"
  list:
    - a: "b: c"
    - []
  deep:
    e: {}`);
  });

  test.each([
    ["-H 'Authorization: Bearer tok-1234567'", 'bearer: "{secret.HARBOUR_TOKEN}"', 'HARBOUR_TOKEN', 'tok-1234567'],
    [
      "-H 'Authorization: Token abc-123'",
      'api-key: { header: Authorization, value: "Token {secret.HARBOUR_KEY}" }',
      'HARBOUR_KEY',
      'abc-123',
    ],
    [
      "-H 'X-Api-Key: abc-123'",
      'api-key: { header: X-Api-Key, value: "{secret.HARBOUR_API_KEY}" }',
      'HARBOUR_API_KEY',
      'abc-123',
    ],
    ['-u pilot:pa:ss', 'basic: { user: pilot, password: "{secret.HARBOUR_PASSWORD}" }', 'HARBOUR_PASSWORD', 'pa:ss'],
  ])('%s becomes a secret', (option, line, name, value) => {
    const { apis, secrets } = draft(`curl ${option} ${U}/a`);
    expect([apis[0]!.lines.slice(1), secrets]).toEqual([[`auth: { ${line} }`], [{ name, value }]]);
    expect(written(`curl ${option} ${U}/a`)).not.toContain(value);
  });

  test('a key in the query too', () => {
    const line = `curl '${U}/a?api_key=kv-0123456&day=x'`;
    expect(draft(line).apis[0]!.lines.slice(1)).toEqual([
      'auth: { api-key: { query: api_key, value: "{secret.HARBOUR_API_KEY}" } }',
    ]);
    expect(written(line)).toBe('call: a\nrequest: GET /a\nquery:\n  day: x');
  });

  test('what all calls share moves to the API, once there are several', () => {
    const both = "-H 'Accept: text/csv' -H 'X-Pier: N' -H 'Authorization: Bearer tok-1234567'";
    const { apis, calls } = draft(`curl ${both} ${U}/a`, `curl ${both} -H 'X-Quay: S' ${U}/b`);
    expect(apis).toEqual([
      {
        name: 'harbour',
        url: U,
        lines: [
          'url: https://harbour.example/v1',
          'auth: { bearer: "{secret.HARBOUR_TOKEN}" }',
          'headers:',
          '  Accept: text/csv',
          '  X-Pier: "N"',
        ],
      },
    ]);
    expect(calls.map(({ lines }) => lines)).toEqual([
      ['call: a', 'request: GET /a'],
      ['call: b', 'request: GET /b', 'headers:', '  X-Quay: S'],
    ]);
  });

  test.each([
    ['/vessels/{vessel_id}', '/vessels/{vessel_id}', 'vessel_id'],
    ['/vessels/{{vesselId}}', '/vessels/{vessel_id}', 'vessel_id'],
    ['/vessels/<id>', '/vessels/{id}', 'id'],
    ['/vessels/:id', '/vessels/{id}', 'id'],
    ['/vessels/xxxxx', '/vessels/{vessel_id}', 'vessel_id'],
    ['/berths/YOUR_BERTH', '/berths/{berth}', 'berth'],
    ['/berths/$BERTH', '/berths/{berth}', 'berth'],
  ])('a placeholder of documentation is an input: %s', (path, target, name) => {
    const { calls, inputs } = draft(`curl '${U}${path}'`);
    expect([calls[0]!.lines[1], inputs.map((input) => input.name)]).toEqual([`request: GET ${target}`, [name]]);
  });

  test.each(['YOUR_API_KEY', '$TOKEN', '<your token>', 'xxxxx', '...'])(
    '%s where a credential belongs is a secret to be given',
    (value) => {
      const { secrets, inputs } = draft(`curl -H 'Authorization: Bearer ${value}' ${U}/a`);
      expect([secrets, inputs]).toEqual([[{ name: 'HARBOUR_TOKEN', value: undefined }], []]);
    },
  );

  test.each([
    ['max_tokens=100'],
    ['page_token=abcdefgh'],
    ['next-key=abcdefgh'],
    ['sort_key=name'],
    ['monkey=abcdefgh'],
  ])('%s is no credential', (parameter) => {
    expect(draft(`curl '${U}/a?${parameter}'`).secrets).toEqual([]);
  });
});
