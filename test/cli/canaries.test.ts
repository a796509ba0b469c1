import fc from 'fast-check';
import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { useFolders, type Folder } from '../support/program.ts';

const folderWith = useFolders();
const closing: (() => void)[] = [];
afterAll(() => closing.forEach((close) => close()));

/** The part of its base64 at each alignment that does not depend on what stands beside it. */
function aligned(secret: string): readonly string[] {
  const bytes = Buffer.from(secret);
  return [0, 1, 2].map((shift) => {
    const encoded = Buffer.concat([Buffer.alloc(shift), bytes]).toString('base64');
    return encoded.slice(shift === 0 ? 0 : shift + 1, Math.floor(((shift + bytes.length) * 8) / 6));
  });
}

/** Forms in which a secret must never be found in what left the process. */
function formsOf(secret: string): readonly string[] {
  const bytes = Buffer.from(secret);
  const percent = encodeURIComponent(secret);
  const every = [...bytes].map((byte) => `%${byte.toString(16).padStart(2, '0').toUpperCase()}`).join('');
  const forms = [
    secret,
    JSON.stringify(secret).slice(1, -1),
    percent,
    percent.replace(/%../g, (code) => code.toLowerCase()),
    new URLSearchParams({ x: secret }).toString().slice(2),
    every,
    bytes.toString('hex'),
    ...aligned(secret),
  ];
  return [...new Set(forms)].filter((each) => each.length >= 6);
}

/** What a server may say of a secret: every form of it, its base64 with other text on both sides. */
function saidOf(secret: string): readonly string[] {
  const beside = ['', '<', '<&'].map((before) => Buffer.from(`${before}${secret}&>`).toString('base64'));
  return [...formsOf(secret).filter((form) => !aligned(secret).includes(form)), ...beside];
}

/** Says back what it was sent, in every form and cut at every place. */
async function openEcho(secrets: readonly string[]): Promise<string> {
  const server = createServer(async (request: IncomingMessage, response) => {
    const chunks: Buffer[] = [];
    for await (const chunk of request) chunks.push(chunk as Buffer);
    const said = { headers: request.headers, url: request.url, body: Buffer.concat(chunks).toString(), secrets };
    const { pathname } = new URL(request.url!, 'http://x');
    if (pathname === '/token')
      return response
        .setHeader('Content-Type', 'application/json')
        .end(JSON.stringify({ access_token: secrets[0], token_type: 'Bearer' }));
    const forms = secrets.flatMap(saidOf).join(' | ');
    const text = pathname.endsWith('/json')
      ? JSON.stringify({ ...said, forms, wrapped: [secrets] })
      : `${forms} | ${JSON.stringify(said)}`;
    const type = pathname.endsWith('/json')
      ? 'application/json'
      : pathname.endsWith('/xml')
        ? 'application/xml'
        : 'text/plain; charset=utf-8';
    response.writeHead(pathname.endsWith('/bad') ? 500 : 200, {
      'Content-Type': type,
      'X-Echo': Buffer.from(secrets.join(','))
        .toString('latin1')
        .replace(/[^\x20-\x7e\x80-\xff]/g, ''),
      'Set-Cookie': `crumb=${encodeURIComponent(secrets[0]!)}`,
      ...(pathname.includes('/zip') ? { 'Content-Encoding': 'gzip' } : {}),
    });
    const body = pathname.endsWith('/xml')
      ? `<a>${text.replace(/[<&]/g, (sign) => ({ '<': '&lt;', '&': '&amp;' })[sign]!).replace(/[\0-\x08\x0b\x0c\x0e-\x1f]/g, '')}</a>`
      : text;
    const bytes = pathname.includes('/zip') ? gzipSync(body) : Buffer.from(body);
    for (let i = 0; i < bytes.length; i += 97) response.write(bytes.subarray(i, i + 97));
    response.end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  closing.push(() => (server.close(), server.closeAllConnections()));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

/** Each way to send a secret: how the api lets in, and what the call says. */
const WAYS: Readonly<Record<string, readonly [auth: string, call: string]>> = {
  bearer: ['bearer: "{secret.A}"', 'json: { a: "{secret.B}", deep: [{ n: "x{secret.C}" }] }'],
  basic: ['basic: { user: pilot, password: "{secret.A}" }', 'form: { a: "{secret.B}", c: "{secret.C}" }'],
  'api-key in a query': ['api-key: { query: key, value: "{secret.A}" }', 'text: "{secret.B} {base64(secret.C)}"'],
  'api-key in a cookie': ['api-key: { cookie: key, value: "{url_encoded(secret.A)}" }', 'xml: "<b>{secret.B}</b>"'],
  oauth2: [
    'oauth2: { grant: password, user: pilot, password: "{secret.A}", client-id: desk, client-secret: "{secret.B}", client-auth: post, token-url: "ECHO/token" }',
    'query: { c: "{secret.C}" }',
  ],
  digest: ['digest: { user: pilot, password: "{secret.A}" }', 'multipart: { b: "{secret.B}", c: "{secret.C}" }'],
  signature: [
    'signature: { key-id: k, key: "{secret.A}", algorithm: hmac-sha256 }',
    'graphql: { query: "query { a }", variables: { b: "{secret.B}", c: "{secret.C}" } }',
  ],
  attach: [
    'attach: { headers: { X-Sign: "{sha256(secret.A)}", X-Raw: "{url_encoded(secret.B)}" } }',
    'json-file: body.json\n    set: { $.c: "{secret.C}" }',
  ],
};

/** What goes into a header is ASCII, however awkward; what goes into a body is anything. */
const awkward = (signs: string) =>
  fc.string({
    unit: fc.constantFrom(...`abcXYZ019 "\\%/+&=<>'{}${signs}`),
    minLength: 8,
    maxLength: 60,
  });

test.each(Object.keys(WAYS))(
  'by %s: no form of a secret is in anything that left',
  async (way) => {
    const [auth, call] = WAYS[way]!;
    const seed = way.length * 7919;
    const drawn = ['', 'é‹ø漢😀', 'é‹ø漢😀'].map(
      (signs, i) => fc.sample(awkward(signs), { numRuns: 1, seed: seed + i })[0]!,
    );
    const secrets = drawn.map((each, i) => `${'kvq'[i]}${each}${i}zQ`);
    const echo = await openEcho(secrets);
    const steps = ['json', 'plain', 'zip/json', 'xml', 'zip/bad'].map(
      (target, i) =>
        `  - call: c${i}\n    request: POST /${target}\n    on-failure: continue\n    ${call}\n    expect:\n      - $.nothing.here == 1\n      - length($.secrets[0]) == 1\n`,
    );
    const folder = folderWith({
      'batharon.yaml': `apis:\n  echo:\n    url: ${echo}\n    headers: { X-Plain: "{base64(secret.C)}" }\n    auth:\n      ${auth.replace('ECHO', echo)}\nsecrets: { A: [echo], B: [echo], C: [echo] }\n`,
      'c.chain.yaml': `name: canaries\napi: echo\nsteps:\n${steps.join('')}  - say: "done {secret.A}"\noutputs: { b: secret.B }\n`,
      'body.json': '{"c": "sample"}',
    });
    const env = { A: secrets[0]!, B: secrets[1]!, C: secrets[2]! };
    const writtenFiles: string[] = [];
    const run = async (...args: readonly string[]) => writtenFiles.push((await folder.run(args, { env })).all);
    await run('run', 'c.chain.yaml', '--out', 'given.json');
    for (const name of ['c0', 'c1', 'c2', 'c3', 'c4']) await run('look', name);
    await run('look', 'c0', '--as', 'json');
    await run('look', 'c0', '--origins');
    await run('look', 'c0', '--paths');
    await run('export', 'curl', 'c0');
    await run('preview', 'c.chain.yaml');
    await run('preview', 'c.chain.yaml', '--as', 'curl');
    await run('sign-in', 'echo');
    await run('find', 'secrets', '--call', 'c0');
    await run('value', '$', '--call', 'c0');
    await run('send', 'POST', '/json', '--json', '{"a": "{secret.B}"}');
    await run('secrets');
    expect(writtenFiles[0]).toContain('5 calls');
    expectNone(env, folder, writtenFiles);
  },
  60_000,
);

/** No form of a secret stands in any file, nor in what was put out. */
function expectNone(secrets: Readonly<Record<string, string>>, folder: Folder, writtenFiles: readonly string[]): void {
  const left = [...folder.all(), ...writtenFiles.map((text, i): [string, string] => [`output ${i}`, text])];
  for (const [name, secret] of Object.entries(secrets)) {
    for (const form of formsOf(secret)) {
      const inBytes = Buffer.from(form).toString('latin1');
      for (const [file, text] of left) {
        if (text.includes(form) || text.includes(inBytes))
          throw new Error(`${name} stands in ${file} as ${form}: ${secret}`);
      }
    }
  }
}

/** Names of a chain through which a secret goes from step to step, and out of each of them. */
const LOOPS = `api: echo
inputs: { k: secret }
steps:
  - let: { both: "[k, lower(k) + 'x']" }
  - each: v in both
    identified-by: lower(v)
    on-failure: continue
    rejects: out/rejected.csv
    steps:
      - call: fails
        request: POST /plain
        json: { v: "{v}" }
        expect: ["$ == v"]
  - each: w in both
    steps:
      - call: held
        request: POST /json/{w}/json
        headers: { X-W: "{base64(w)}" }
      - write: out/rows.csv
        row: { w: "{w}", digest: "{sha256(w)}", number: "{loop.number}" }
    gather: { all: { w: "{upper(w)}" } }
  - write: out/all.ndjson
    rows: all
  - repeat: rounds
    carry: { c: k }
    steps:
      - say: "round {c}"
      - let: { c: c + 'y', other: upper(c) }
    until: loop.number >= 2
  - say: "{other} {json(all)}"
  - listen: back
    path: /{k}
  - receive: back
    within: 1ms
outputs: { all: all, c: c }
`;

test('through loops, rounds, tables and callbacks nothing of a secret is left, nor of what was made of it', async () => {
  const secret = 'kAb"\\ %/+;,é1zQ';
  const folder = folderWith({
    'batharon.yaml': `apis: { echo: { url: "${await openEcho([secret])}" } }\n`,
    'c.chain.yaml': LOOPS,
  });
  const writtenFiles: string[] = [];
  const run = async (...args: readonly string[]) => writtenFiles.push((await folder.run(args)).all);
  await run('run', 'c.chain.yaml', '--input', `k=${secret}`, '--out', 'given.json', '--report', 'html=page.html');
  await run('resume', '--failed', '--input', `k=${secret}`);
  await run('look', 'passed', '--item', '2');
  expect(writtenFiles[0]).toContain('2 items, 2 failed');
  const made = [secret, secret.toLowerCase(), secret.toUpperCase(), `${secret.toLowerCase()}x`, `${secret}y`];
  const digests = made.map((each) => createHash('sha256').update(each).digest('hex'));
  expectNone(Object.fromEntries([...made, ...digests].map((each) => [each, each])), folder, writtenFiles);
});
