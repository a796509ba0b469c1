import { createHash } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { brotliDecompressSync, gunzipSync, gzipSync, inflateSync } from 'node:zlib';
import { useFolders } from '../support/program.ts';

const folderWith = useFolders();
const DECODE = { gzip: gunzipSync, deflate: inflateSync, br: brotliDecompressSync };

describe('bodies of requests that are compressed', () => {
  let server: Server;
  const seen: { coding: string | undefined; body: Buffer; digest: unknown; length: unknown }[] = [];
  beforeAll(async () => {
    server = createServer((request, response) => {
      const chunks: Buffer[] = [];
      request.on('data', (chunk: Buffer) => chunks.push(chunk));
      request.on('end', () => {
        const { 'content-encoding': coding, 'content-digest': digest, 'content-length': length } = request.headers;
        seen.push({ coding, body: Buffer.concat(chunks), digest, length });
        response.writeHead(200, { 'content-type': 'application/json' }).end('{}');
      });
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });
  beforeEach(() => void seen.splice(0));
  afterAll(() => void server.close());

  function folderOf(call: string) {
    const signature = 'signature: { key-id: k, key: "{secret.KEY}", algorithm: hmac-sha256, covers: [content-digest] }';
    return folderWith({
      'batharon.yaml': `apis:\n  a:\n    url: http://127.0.0.1:${(server.address() as AddressInfo).port}\n    auth: { ${signature} }\n`,
      'c.chain.yaml': `api: a\nsteps:\n  - call: send\n    request: POST /x\n${call}`,
      'secrets.env': 'KEY=k-4711-abcdef\n',
      'table.csv.gz': 'not gzip, and sent as it is',
      'day.json': '{"day": "2026-05-23"}',
    });
  }

  test.each([
    ['gzip', 'json: { day: "2026-05-23" }', '{"day":"2026-05-23"}'],
    ['br', 'text: "a quay, a quay"', 'a quay, a quay'],
    ['deflate', 'form: { a: "1", b: "2" }', 'a=1&b=2'],
    ['gzip', 'json-file: day.json', '{"day": "2026-05-23"}'],
  ] as const)('%s of %s', async (coding, body, text) => {
    const at = folderOf(`    headers: { Content-Encoding: ${coding} }\n    ${body}\n`);
    expect((await at.run(['run', 'c.chain.yaml'])).status).toBe(0);
    const [sent] = seen;
    expect([sent!.coding, DECODE[coding](sent!.body).toString()]).toEqual([coding, text]);
    expect(sent!.length).toBe(String(sent!.body.length));
    // What is digested is what is sent (RFC 9530 section 2).
    expect(sent!.digest).toBe(`sha-256=:${createHash('sha256').update(sent!.body).digest('base64')}:`);
    expect((await at.run(['look'])).out).toMatch(/2026-05-23|a quay|a=1/);
  });

  test('a file goes as it is, and another coding is refused', async () => {
    const file = folderOf('    headers: { Content-Encoding: gzip }\n    file: table.csv.gz\n');
    file.write('table.csv.gz', gzipSync('a,b\n1,2\n'));
    expect((await file.run(['run', 'c.chain.yaml'])).status).toBe(0);
    expect(gunzipSync(seen[0]!.body).toString()).toBe('a,b\n1,2\n');
    const other = folderOf('    headers: { Content-Encoding: zstd }\n    text: x\n');
    const { status, all } = await other.run(['run', 'c.chain.yaml']);
    expect([status, all]).toEqual([1, expect.stringContaining('cannot be sent as Content-Encoding: zstd')]);
    expect(seen).toHaveLength(1);
  });
});
