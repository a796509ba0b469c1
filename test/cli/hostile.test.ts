import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo, Socket } from 'node:net';
import { brotliCompressSync, deflateSync, gzipSync } from 'node:zlib';
import { useFolders } from '../support/program.ts';

const folder = useFolders();
const MiB = 1024 * 1024;

/** Answers by path, each in its own bad manner. */
const answers: Readonly<Record<string, (response: ServerResponse, socket: Socket) => void>> = {
  '/deep': (response) => json(response, '['.repeat(100_000) + ']'.repeat(100_000)),
  '/big': (response) => {
    response.writeHead(200, { 'content-type': 'application/json', 'content-length': 200 * MiB });
    const chunk = Buffer.alloc(MiB, 0x20);
    const send = (left: number): void => {
      if (left > 0 && !response.destroyed) response.write(chunk, () => send(left - 1));
    };
    send(200);
  },
  '/bomb': (response) => {
    response.writeHead(200, { 'content-type': 'text/plain', 'content-encoding': 'gzip' });
    response.end(gzipSync(Buffer.alloc(100 * MiB)));
  },
  '/not-utf8': (response) => json(response, Buffer.from([0x22, 0x61, 0xff, 0x22])),
  '/prototype': (response) => json(response, '{"__proto__": {"polluted": true}, "constructor": {"x": 1}, "a": 1}'),
  '/endless': (response) => {
    response.writeHead(200, { 'content-type': 'text/plain' });
    const timer = setInterval(() => response.write('more '), 20);
    response.on('close', () => clearInterval(timer));
  },
  '/silent': () => undefined,
  '/stalls': (response) => void response.writeHead(200, { 'content-type': 'text/plain' }).write('begin'),
  '/cut': (response, socket) => {
    response.writeHead(200, { 'content-type': 'application/json', 'content-length': 5000 });
    response.write('{"a": 1', () => setTimeout(() => socket.destroy(), 30));
  },
  '/closed': (_response, socket) => void socket.destroy(),
  '/no-http': (_response, socket) => void socket.end('HTTP/9 what\r\n\r\n'),
  '/split': (_response, socket) =>
    void socket.end('HTTP/1.1 200 OK\r\nX-A: one\r\n two\rthree\r\nContent-Length: 0\r\n\r\n'),
  '/headers': (response) => void response.writeHead(200, { 'x-long': 'x'.repeat(100_000) }).end(),
  '/fields': (response) =>
    void response.writeHead(200, Array.from({ length: 400 }, (_, i): [string, string] => [`x-${i}`, '1']).flat()).end(),
  '/damaged': (response) =>
    void response.writeHead(200, { 'content-encoding': 'gzip', 'content-type': 'text/plain' }).end('not gzip'),
  '/unknown-coding': (response) => void response.writeHead(200, { 'content-encoding': 'zstd9' }).end('x'),
  '/stacked': (response) => void response.writeHead(200, { 'content-encoding': 'gzip, gzip, gzip, gzip' }).end('x'),
  '/gzip': (response) => coded(response, 'gzip', gzipSync),
  '/deflate': (response) => coded(response, 'deflate', deflateSync),
  '/br': (response) => coded(response, 'br', brotliCompressSync),
  '/control': (response) => json(response, '{"a": "\\u001b[2J\\u001b]0;title\\u0007", "b": "\\u202e"}', 400),
  '/empty': (response) => void response.writeHead(204).end(),
  '/huge-number': (response) => json(response, '{"n": 1e999}'),
  '/text': (response) => void response.writeHead(200, { 'content-type': 'text/plain' }).end('a'.repeat(100_000)),
};

function json(response: ServerResponse, body: string | Buffer, status = 200): void {
  response.writeHead(status, { 'content-type': 'application/json' }).end(body);
}

function coded(response: ServerResponse, coding: string, encode: (data: Buffer) => Buffer): void {
  response
    .writeHead(200, { 'content-type': 'application/json', 'content-encoding': coding })
    .end(encode(Buffer.from('{"a": 1}')));
}

let server: Server;
let url: string;
beforeAll(async () => {
  server = createServer((request, response) => answers[request.url!]?.(response, request.socket));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});

const run = (path: string, ...lines: readonly string[]) => {
  const chain = [
    'api: bad',
    'steps:',
    '  - call: one',
    `    request: GET ${path}`,
    ...lines.map((line) => `    ${line}`),
    '',
  ].join('\n');
  return folder({ 'batharon.yaml': `apis: { bad: { url: "${url}" } }\n`, 'a.chain.yaml': chain }).run([
    'run',
    'a.chain.yaml',
  ]);
};

describe('whatever a server sends ends in a message and a status', () => {
  const rows: readonly (readonly [path: string, status: number, told: string | RegExp, ...lines: string[]])[] = [
    ['/deep', 3, /over-limit: .* nested more than 512 levels deep, at character 513/],
    ['/big', 3, 'body-too-big: The body exceeds 64 MiB after decompression'],
    ['/bomb', 3, 'body-too-big: The body exceeds 64 MiB after decompression'],
    ['/not-utf8', 3, 'not-decodable: The body is not valid UTF-8: byte 3 begins ff 22'],
    ['/endless', 3, /timed-out: Not complete within 0.3 s: \d+ bytes of the body arrived/, 'timeout: 300ms'],
    ['/silent', 3, 'timed-out: No response within 0.2 s after the request was sent', 'timeout: { response: 200ms }'],
    ['/stalls', 3, 'timed-out: The body stalled: no data for 0.2 s, after 5 bytes', 'timeout: { idle: 200ms }'],
    ['/cut', 3, 'no-connection: The connection was closed, in the middle of the body, after 7 bytes'],
    ['/closed', 3, 'no-connection: The connection was closed before a response arrived'],
    ['/no-http', 3, 'no-connection: The reply is not an HTTP response'],
    ['/split', 3, 'no-connection: The reply is not an HTTP response'],
    ['/headers', 3, 'no-connection: The response headers exceed 64 KiB'],
    ['/fields', 3, 'over-limit: The response has more than 200 headers'],
    ['/damaged', 3, 'not-decodable: The body is declared as compressed with gzip'],
    ['/unknown-coding', 3, 'not-decodable: The body has the encoding "zstd9"'],
    ['/stacked', 3, 'over-limit: The body is encoded more than three times'],
    ['/huge-number', 3, 'the number 1e999 is out of range'],
    ['/gzip', 0, 'passed', 'expect: [$.a == 1]'],
    ['/deflate', 0, 'passed', 'expect: [$.a == 1]'],
    ['/br', 0, 'passed', 'expect: [$.a == 1]'],
    ['/empty', 0, 'passed', 'expect: [not(exists($)), size == 0]'],
    [
      '/prototype',
      0,
      'passed',
      'expect:',
      '  - $.__proto__.polluted == true',
      '  - not(exists($.toString))',
      '  - $.constructor.x == 1',
      '  - not(exists($.a.polluted))',
    ],
    ['/text', 1, 'is false', 'expect:', "  - match($, '(a+)+b')"],
    ['/control', 1, '<U+202E>', 'expect:', "  - $.b == 'x'"],
  ];
  test.each(rows.map((row) => [row[0], row] as const))('%s', async (_name, [path, status, told, ...lines]) => {
    const result = await run(path, ...lines);
    const text = result.all.replace(/\s+/g, ' ');
    if (typeof told === 'string') expect(text).toContain(told);
    else expect(text).toMatch(told);
    expect([result.status, result.err]).toEqual([status, '']);
    expect(result.all).not.toContain('\u001b');
  });

  test('nobody listens, and a name that is none', async () => {
    const place = (to: string) =>
      folder({
        'batharon.yaml': `apis: { bad: { url: "${to}" } }\n`,
        'a.chain.yaml': 'steps:\n  - call: one\n    request: GET /a\n',
      }).run(['run', 'a.chain.yaml']);
    const refused = await place('http://127.0.0.1:9');
    expect([refused.status, refused.out]).toEqual([
      3,
      expect.stringContaining('no-connection: Nothing is listening there'),
    ]);
    const unknown = await place('http://kvitnes.invalid');
    expect([unknown.status, unknown.out]).toEqual([3, expect.stringMatching(/no-connection: The host name was/)]);
  });
});

describe('hostile files', () => {
  test.each([
    [
      'an alias bomb',
      [
        'a: &a [x, x, x, x, x, x, x, x]',
        ...Array.from(
          'bcdefghijk',
          (name, i) => `${name}: &${name} [${Array.from({ length: 9 }, () => `*${'abcdefghij'[i]}`).join(', ')}]`,
        ),
      ].join('\n'),
      'over-limit',
    ],
    ['a file that is no text', Buffer.from([0xff, 0xfe, 0x00]).toString('latin1'), 'not-utf8'],
    ['five megabytes', `about: "${'x'.repeat(5 * MiB)}"\nsteps: []\n`, 'file-too-big'],
    ['a hundred thousand levels', `steps: ${'['.repeat(100_000)}\n`, 'file-too-big'],
    ['a thousand levels', `steps: ${'['.repeat(1000)}${']'.repeat(1000)}\n`, 'file-too-big'],
    [
      'a pattern that is none',
      "steps:\n  - call: a\n    request: GET /a\n    expect:\n      - match($.a, '((((')\n",
      'invalid-pattern',
    ],
  ])('%s', async (_name, text, code) => {
    const place = folder({ 'batharon.yaml': `apis: { bad: { url: "${url}" } }\n` });
    place.write('a.chain.yaml', Buffer.from(text, code === 'not-utf8' ? 'latin1' : 'utf8'));
    const { status, all } = await place.run(['check', 'a.chain.yaml']);
    expect(status).toBe(2);
    expect(all).toContain(code);
  });
});

test('Ctrl-C lets the request in flight be cut after its grace, and says that the run was interrupted', async () => {
  const place = folder({
    'batharon.yaml': `apis: { bad: { url: "${url}" } }\n`,
    'a.chain.yaml':
      'steps:\n  - call: one\n    request: GET /gzip\n  - call: two\n    request: GET /silent\n  - call: three\n    request: GET /gzip\n',
  });
  const isSent = () => place.all().some(([name, text]) => name.endsWith('journal.ndjson') && text.includes('/silent'));
  const { status, out } = await place.run(['run', 'a.chain.yaml'], { until: isSent, again: true });
  expect(status).toBe(130);
  expect(out).toContain('interrupted');
  expect(out).not.toContain('three');
  expect(place.journals()[0]!.at(-1)).toMatchObject({ type: 'paused', why: 'interrupt', exit: 130 });
});

test('whoever closes the error output is written to no more, and the exit status is that of the run', async () => {
  const at = folder({
    'batharon.yaml': 'apis: { harbour: { url: "http://127.0.0.1:1" } }\n',
    'x.chain.yaml': 'steps:\n  - say: hello\noutputs: { a: 1 + 1 }\n',
  });
  const { status, out } = await at.run(['run', 'x.chain.yaml', '--out', '-'], { isErrorClosed: true });
  expect([status, JSON.parse(out)]).toEqual([0, { a: 2 }]);
});
