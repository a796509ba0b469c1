import { explainFailure } from '../../src/core/report/failure.ts';
import { History } from '../../src/core/report/history.ts';
import type { HttpRequest } from '../../src/core/http/message.ts';
import { createHash, createHmac } from 'node:crypto';
import { readChain } from '../../src/core/chain/chain-file.ts';
import { chainOf, coreRun, type CoreOptions } from '../support/engine.ts';
import { openerOf } from '../support/hosts.ts';

const files: Readonly<Record<string, string>> = {
  'order.json': '{\n  "vessel" : "sample",  "n": 1.10,\n  "lines": [ {"qty": 1}, {"qty": 2} ],\n  "note": "x"\n}\n',
  'empty.json': '{"a":{}}',
  'chart.png': '\u0089PNG bytes',
};

const opened = openerOf(files);

const project = (auth: string) =>
  `apis:\n  harbour:\n    url: http://127.0.0.1:1/v1\n    auth:\n${auth.replace(/^/gm, '      ')}\n`;

/** The request of one call, with its body as text. */
async function requestOf(call: string, options: CoreOptions = {}) {
  const text = chainOf(`- let: { vessel: "'KM 204/5 <&\\">'", n: 3 }\n- call: c\n${call.replace(/^/gm, '  ')}`);
  const run = await coreRun(text, { answers: [{ status: 200, body: '{}' }], ...options, host: { openFile: opened } });
  const [sent] = run.sent;
  const body = typeof sent?.body === 'string' ? sent.body : new TextDecoder().decode(sent?.body as Uint8Array);
  const header = (name: string) => sent?.headers.find(([each]) => each.toLowerCase() === name)?.[1];
  return { run, sent, body, type: header('content-type'), header };
}

test.each([
  ['json-file as it stands', 'request: POST /o\njson-file: order.json', files['order.json']!, 'application/json'],
  [
    'json-file with values put in by path: every other byte stays',
    'request: POST /o\njson-file: order.json\nset:\n  $.vessel: "{vessel}"\n  $.lines[*].qty: "{n}"\n  $.note: "due {n}"',
    '{\n  "vessel" : "KM 204/5 <&\\">",  "n": 1.10,\n  "lines": [ {"qty": 3}, {"qty": 3} ],\n  "note": "due 3"\n}\n',
    'application/json',
  ],
  [
    'json-file with members added, laid out as the others are',
    'request: POST /o\njson-file: order.json\nset:\n  $.berth: "{n}"\n  $.lines[*].flag: "NO"\n  $.crew: 2',
    '{\n  "vessel" : "sample",  "n": 1.10,\n  "lines": [ {"qty": 1, "flag": "NO"}, {"qty": 2, "flag": "NO"} ],\n  "note": "x",\n  "berth": 3,\n  "crew": 2\n}\n',
    'application/json',
  ],
  [
    'json-file with members added to an empty object',
    'request: POST /o\njson-file: empty.json\nset:\n  $.a.b: "{n}"\n  $.a.c: x',
    '{"a":{"b": 3, "c": "x"}}',
    'application/json',
  ],
  [
    'xml with its values escaped',
    'request: POST /o\nxml: <v id="{vessel}">{n}</v>',
    '<v id="KM 204/5 &lt;&amp;&quot;&gt;">3</v>',
    'application/xml; charset=utf-8',
  ],
  [
    'a file',
    'request: PUT /o\nfile: order.json\ntype: application/merge-patch+json',
    files['order.json']!,
    'application/merge-patch+json',
  ],
  [
    'graphql, its braces its own',
    'request: POST /g\ngraphql:\n  query: "query Q($v: ID!) {{ vessel(id: $v) {{ name }} }}"\n  variables: { v: "{vessel}" }\n  operation: Q',
    '{"query":"query Q($v: ID!) {{ vessel(id: $v) {{ name }} }}","variables":{"v":"KM 204/5 <&\\">"},"operationName":"Q"}',
    'application/json',
  ],
])('%s', async (_name, call, wanted, type) => {
  const sent = await requestOf(call);
  expect(sent.body).toBe(wanted);
  expect(sent.type).toBe(type);
});

test('multipart: names are quoted as RFC 7578 says, files keep their bytes, the boundary depends on the seed alone', async () => {
  const call = `request: POST /o\nmultipart:\n  'ti"tle': "{vessel}"\n  many: [a, b]\n  none: null\n  photo: { file: chart.png }`;
  const { body, type } = await requestOf(call);
  const boundary = /boundary=(\S+)/.exec(type!)![1]!;
  const part = (head: string, content: string) =>
    `--${boundary}\r\nContent-Disposition: form-data; ${head}\r\n\r\n${content}\r\n`;
  expect(body).toBe(
    part('name="ti%22tle"', 'KM 204/5 <&">') +
      part('name="many"', 'a') +
      part('name="many"', 'b') +
      part('name="photo"; filename="chart.png"\r\nContent-Type: image/png', files['chart.png']!) +
      `--${boundary}--\r\n`,
  );
  expect((await requestOf(call)).type).toBe(type);
});

test.each([
  ['a name that is nearly another', 'json-file: order.json\nset: { $.vesel: x }', 'found-nothing'],
  ['a path that finds nothing', 'json-file: order.json\nset: { $.cargo.berth: x }', 'found-nothing'],
  ['a placeholder that would leave the folder', 'file: "{vessel}.json"', 'invalid-value'],
  ['a character that XML cannot hold', `xml: "<v>{url_decoded('%07')}</v>"`, 'invalid-value'],
])('%s is told before anything is sent', async (_name, body, code) => {
  await requestOf(`request: POST /o\n${body}`).then(
    ({ run }) => {
      expect(run.codes).toContain(code);
      expect(run.sent).toHaveLength(0);
    },
    (error: Error) => expect(error.message).toContain(code),
  );
});

test('GraphQL: errors fail a call that does not speak of them, and a query may be sent again', async () => {
  const answers = [{ body: '{"data": null, "errors": [{"message": "no such berth"}]}' }];
  const call = 'request: POST /g\ngraphql: { query: "query { berths { id } }" }';
  const silent = await requestOf(call, { answers });
  expect(silent.run.codes).toEqual(['expectation-false']);
  expect(silent.run.events.find(({ type }) => type === 'sent')).toMatchObject({ repeatable: true, changing: false });
  const speaks = await requestOf(`${call}\nexpect:\n  - length($.errors) == 1`, { answers });
  expect(speaks.run.exit).toBe(0);
  const change = await requestOf(call.replace('query {', 'mutation {'), { answers });
  expect(change.run.events.find(({ type }) => type === 'sent')).toMatchObject({ repeatable: false, changing: true });
});

test('an idempotency key is the same for the same request and another one for another; a text is taken as it is', async () => {
  const key = async (json: string) =>
    (await requestOf(`request: POST /o\nidempotency-key: true\njson: ${json}`)).header('idempotency-key');
  const first = await key('{ a: 1 }');
  expect(first).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  expect(await key('{ a: 1 }')).toBe(first);
  expect(await key('{ a: 2 }')).not.toBe(first);
  const own = await requestOf('request: POST /o\nidempotency-key: "order-{n}"');
  expect(own.header('idempotency-key')).toBe('order-3');
  expect(own.run.events.find(({ type }) => type === 'sent')).toMatchObject({
    repeatable: true,
    idempotencyKey: 'order-3',
  });
});

describe('credentials of a home-grown kind', () => {
  test('attach signs the request byte for byte as it is sent, at one instant', async () => {
    const signing = `attach:
  headers:
    X-Time: "{epoch(request.time)}"
    X-Body: "{sha256(request.body)}"
    X-Sign: "{hex(hmac('sha256', secret.KEY, request.method + ' ' + request.path + '?' + request.query + ' ' + string(epoch(request.time))))}"`;
    const { sent, header, run, body } = await requestOf('request: POST /berths/{vessel}{?n}\njson: { a: 1 }', {
      project: project(signing),
      secrets: { KEY: 'brass-key-1' },
    });
    const time = header('x-time');
    expect(time).toBe(String(Date.parse('2026-05-23T10:00:00Z') / 1000));
    expect(header('x-body')).toBe(createHash('sha256').update(body).digest('hex'));
    const { pathname, search } = new URL(sent!.url);
    const signed = createHmac('sha256', 'brass-key-1').update(`POST ${pathname}${search} ${time}`).digest('hex');
    expect(header('x-sign')).toBe(signed);
    const recorded = JSON.stringify(run.events);
    expect(recorded).toContain('‹X-Sign›');
    expect(recorded).not.toContain(signed);
  });

  test('a chain signs in once for all calls, without credentials of its own; again after a 401', async () => {
    const { chain } = readChain({
      path: 'sign-in.chain.yaml',
      text: 'inputs: { user: string }\napi: harbour\nsteps:\n  - call: session\n    request: POST /session\n    json: { user: "{user}" }\n    keep: { ticket: secret($.ticket) }\noutputs: [ticket]\n',
    });
    const run = await coreRun(chainOf('- call: a\n  request: GET /a\n- call: b\n  request: GET /b'), {
      project: project(
        'chain: sign-in.chain.yaml\ninputs: { user: pilot }\nattach: { headers: { X-Ticket: "T {outputs.ticket}" } }',
      ),
      chains: { 'sign-in.chain.yaml': chain! },
      answers: [
        { status: 201, body: '{"ticket": "first-ticket"}' },
        { body: '{}' },
        { status: 401, body: '{}' },
        { status: 201, body: '{"ticket": "second-ticket"}' },
        { body: '{}' },
      ],
    });
    expect(run.exit).toBe(0);
    const ticket = (i: number) => run.sent[i]!.headers.find(([name]) => name === 'X-Ticket')?.[1];
    expect(run.sent.map(({ url }) => new URL(url).pathname)).toEqual([
      '/v1/session',
      '/v1/a',
      '/v1/b',
      '/v1/session',
      '/v1/b',
    ]);
    expect([0, 1, 2, 3, 4].map(ticket)).toEqual([
      undefined,
      'T first-ticket',
      'T first-ticket',
      undefined,
      'T second-ticket',
    ]);
    expect(run.events.flatMap((event) => (event.type === 'sent' ? [event.purpose] : []))).toEqual([
      'sign-in',
      'call',
      'call',
      'sign-in',
      'call',
    ]);
    expect(JSON.stringify(run.events)).not.toMatch(/first-ticket|second-ticket/);
  });

  test('a 401 tells what is odd about the secret, never what it is', async () => {
    const { run } = await requestOf('request: GET /a', {
      project: project('bearer: "{secret.TOKEN}"'),
      secrets: { TOKEN: 'Bearer kvitnes-abc ' },
      answers: [{ status: 401, body: '{}' }],
    });
    const ended = run.events.find((event) => event.type === 'ended' && event.kind === 'call');
    expect(ended).toMatchObject({ problem: { code: 'not-authorized' } });
    const message = (ended as { problem: { message: string } }).problem.message;
    expect(message).toContain('TOKEN has a space at its end; TOKEN begins with "Bearer"');
    expect(JSON.stringify(run.events)).not.toContain('kvitnes-abc');
  });
});

test('a URL that is secret is followed, and is in no record', async () => {
  const text = chainOf(
    '- call: a\n  request: GET /a\n  keep: { link: "secret($.link)" }\n- call: b\n  request: GET {link}\n',
  );
  const answers = [{ body: '{"link": "http://127.0.0.1:1/v1/door/4711-kvitnes"}' }];
  const { exit, sent, events } = await coreRun(text, { answers });
  expect([exit, sent[1]!.url]).toEqual([0, 'http://127.0.0.1:1/v1/door/4711-kvitnes']);
  expect(JSON.stringify(events)).not.toContain('4711-kvitnes');
});

test('a file or an input that is not UTF-8 is told, and nothing else is sent in its place', async () => {
  const bytes = Uint8Array.from([123, 34, 97, 34, 58, 34, 0xe6, 34, 125]);
  const openFile = () => ({ name: 'a.json', size: bytes.length, pieces: () => [bytes], chunks: async function* () {} });
  const text = chainOf('- call: a\n  request: POST /a\n  json-file: "{name}.json"\n', 'inputs: { name: string }\n');
  const run = await coreRun(text, { inputs: { name: 'a' }, answers: [{ body: '{}' }], host: { openFile } as never });
  expect([run.exit, run.sent, run.codes]).toEqual([1, [], ['not-utf8']]);
});

describe('refused credentials', () => {
  const KEY = { secrets: { KEY: 'kvitnes-4711' } };
  const loop = (more = '') =>
    chainOf(
      `- each: v in [1, 2, 3, 4]\n  on-failure: continue\n  steps:\n    - call: c\n      request: GET /{v}\n${more}`,
    );

  test('a 401 stops a loop that would go on, unless each item has credentials of its own', async () => {
    const answers = [{ body: '{}' }, { status: 401, body: '{}' }];
    const shared = await coreRun(loop(), { ...KEY, project: project('bearer: "{secret.KEY}"'), answers });
    expect([shared.exit, shared.sent.length]).toEqual([1, 2]);
    expect(JSON.stringify(shared.events)).toContain('its credentials are refused, and would be for each further item');
    expect(JSON.stringify(shared.events)).toContain('To set a new one: batharon secrets set KEY');
    const own = '      auth: { basic: { user: "{v}", password: "{secret.KEY}" } }\n';
    const each = await coreRun(loop(own), { ...KEY, project: project('bearer: "{secret.KEY}"'), answers });
    expect([each.exit, each.sent.length]).toEqual([1, 4]);
  });

  test('a 403 says that the credentials do not allow it, and which scope the server asks for', async () => {
    const headers = [['WWW-Authenticate', 'Bearer error="insufficient_scope", scope="berths:write"']] as const;
    const run = await coreRun(chainOf('- call: c\n  request: GET /c\n'), {
      ...KEY,
      project: project('bearer: "{secret.KEY}"'),
      answers: [{ status: 403, headers, body: '{}' }],
    });
    const told = JSON.stringify(run.events);
    expect(told).toContain(
      'answered 403: the bearer credentials do not allow this, and asks for the scope \\"berths:write\\"',
    );
    expect(told).toContain('Check what KEY may do at the server.');
  });

  test('a failure after several tries tells how each of them ended', async () => {
    const text = chainOf('- call: c\n  request: GET /c\n  retry: { tries: 3, wait: 1s }\n');
    const answers = [{ status: 503 }, { status: 502 }, { status: 503, body: '{}' }];
    const { events } = await coreRun(text, { answers });
    const ended = events.find((event) => event.type === 'ended');
    expect(ended).toMatchObject({ tries: 3, tried: ['503', '502', '503'] });
    expect(explainFailure(ended as never, new History()).tries).toBe('3 attempts: 503, 502, 503');
  });
});

describe('responses', () => {
  test.each([
    ['CSV rows', 'text/csv', 'id,goods\r\n1,"cod, fresh"\r\n', '$[0].goods', 'cod, fresh'],
    ['NDJSON lines', 'application/x-ndjson', '{"a":1}\n\n{"a":1.10}\n', 'string($[1].a)', '1.10'],
    [
      'events',
      'text/event-stream',
      ': hi\nevent: level\nid: 7\ndata: {"cm": 3}\n\ndata: a\ndata: b\n\n',
      '$[0].data.cm + length($[1].data)',
      6,
    ],
    [
      'XML in its declared charset',
      'application/xml',
      '<?xml version="1.0" encoding="iso-8859-1"?><a>x</a>',
      "xpath('string(/a)')",
      'x',
    ],
  ])('%s', async (_name, type, body, expression, wanted) => {
    const { run } = await requestOf(`request: GET /a\nkeep: { found: "${expression.replaceAll('"', '\\"')}" }`, {
      answers: [{ type, body }],
    });
    const kept = run.events
      .flatMap((event) => (event.type === 'ended' ? (event.binds ?? []) : []))
      .find(({ name }) => name === 'found');
    expect(kept?.value).toEqual({ json: wanted });
  });

  test('read-as goes before the media type; what cannot be read says what it should be', async () => {
    const plain = await requestOf('request: GET /a\nread-as: json\nkeep: { a: $.a }', {
      answers: [{ type: 'text/plain', body: '{"a": 5}' }],
    });
    expect(plain.run.exit).toBe(0);
    const bad = await requestOf('request: GET /a', {
      answers: [{ type: 'application/x-ndjson', body: '{"a":1}\n{"a"' }],
    });
    expect(bad.run.codes).toContain('not-decodable');
    expect(JSON.stringify(bad.run.events)).toContain('cannot be read as NDJSON');
    expect(JSON.stringify(bad.run.events)).toContain('in line 2');
  });

  test('what an api expects goes before what a call expects, and error-message gives the words of the server', async () => {
    const project = `apis:\n  harbour:\n    url: http://127.0.0.1:1/v1\n    expect: [$.ok == true]\n    error-message: $.why ?? 'no reason'\n`;
    const answers = [{ body: '{"ok": false, "why": "the tide is out"}' }];
    const { run } = await requestOf('request: GET /a\nexpect: [exists($.berth)]', { project, answers });
    const ended = run.events.find((event) => event.type === 'ended' && event.kind === 'call');
    expect(ended).toMatchObject({ problem: { reply: { part: 'message', text: 'the tide is out' } } });
    const of = (ended as unknown as { expects: { of: string; passed: boolean }[] }).expects.map((each) => [
      each.of,
      each.passed,
    ]);
    expect(of).toEqual([
      ['default', true],
      ['api', false],
      ['call', false],
    ]);
    // An absolute URL elsewhere is none of the api's.
    const elsewhere = await requestOf('request: GET https://elsewhere.example/a', { project, answers });
    expect(elsewhere.run.exit).toBe(0);
  });
});

describe('secrets and other origins', () => {
  const secrets = { TOKEN: 'tok-en-123456', KEY: 'k-e-y-123456' };
  const project = `apis:
  harbour: { url: http://127.0.0.1:1/v1, headers: { X-Api: '{secret.TOKEN}' } }
`;
  const headersTo = (sent: readonly HttpRequest[], part: string) =>
    sent.filter(({ url }) => url.includes(part)).flatMap(({ headers }) => headers.map(([name]) => name.toLowerCase()));
  const away = (request: HttpRequest) =>
    request.url.includes('127.0.0.2')
      ? {}
      : { status: 302, headers: [['Location', 'http://127.0.0.2:1/x']] as [string, string][] };

  test.each([
    ['a header of the call', "headers: { X-Key: '{secret.KEY}', X-Plain: yes }"],
    ['a header made of a secret', 'headers: { X-Key: "Key {base64(secret.KEY)}", X-Plain: yes }'],
    ['Authorization, whatever it holds', 'headers: { Authorization: Basic bW9sZQ==, X-Plain: yes }'],
    ['a cookie of the call', 'headers: { Cookie: a=b, X-Plain: yes }'],
    ['an own credential', "auth: { bearer: '{secret.KEY}' }\n  headers: { X-Plain: yes }"],
  ])('%s does not follow a redirect to another origin', async (_what, keys) => {
    const { sent, exit } = await coreRun(chainOf(`- call: a\n  request: GET /x\n  ${keys}`), {
      secrets,
      project,
      answerTo: away,
    });
    expect(exit).toBe(0);
    const there = headersTo(sent, '127.0.0.2');
    expect(there).toContain('x-plain');
    expect(there.filter((name) => /key|api|authorization|cookie/.test(name))).toEqual([]);
  });

  test("on the api's own origin they do", async () => {
    const answerTo = ({ url }: HttpRequest) =>
      url.endsWith('/y') ? {} : { status: 302, headers: [['Location', '/y']] as [string, string][] };
    const chain = chainOf("- call: a\n  request: GET /x\n  headers: { X-Key: '{secret.KEY}' }");
    const { sent } = await coreRun(chain, { secrets, project, answerTo });
    expect(headersTo(sent, '/y')).toEqual(expect.arrayContaining(['x-key', 'x-api']));
  });
});

test.each([
  'ftp://files.harbour.example/a',
  'file:///etc/hostname',
  'javascript:alert(1)',
  'mailto:pilot@harbour.example',
  'http://[',
])('%s from a response is a target that is refused, and no fault of ours', async (link) => {
  const chain = chainOf(
    '- call: found\n  request: GET /links\n  keep: { link: $.link }\n- call: a\n  request: GET {link}',
  );
  const { events, sent } = await coreRun(chain, { answers: [{ status: 200, body: JSON.stringify({ link }) }] });
  expect(sent).toHaveLength(1);
  const codes = events.flatMap((event) => (event.type === 'ended' && event.problem ? [event.problem] : []));
  expect(codes.map(({ code }) => code)).toEqual(['invalid-target']);
});
