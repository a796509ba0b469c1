import { createHash, createHmac } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { useFolders } from '../support/program.ts';

const folder = useFolders();
const KEY = 'quay-master-4711';

/** The signature of the guide, as its server computes it. */
function isSigned({ method, url = '', headers }: IncomingMessage, body: string): boolean {
  const [target, query = ''] = url.split('?');
  const time = String(headers['quay-time']);
  const keyed = (key: string | Buffer, text: string) => createHmac('sha256', key).update(text).digest();
  const digest = createHash('sha256').update(body).digest('hex');
  const key = keyed(keyed(KEY, time.slice(0, 8)), 'north-quay');
  const signature = keyed(key, [method, target, query, time, digest].join('\n')).toString('hex');
  return headers['quay-signature'] === `desk=north, signature=${signature}`;
}

describe('a signature whose key is derived step by step', () => {
  let server: Server;
  const seen: boolean[] = [];
  beforeAll(async () => {
    server = createServer((request, response) => {
      let body = '';
      request.on('data', (data) => (body += String(data)));
      request.on('end', () => {
        seen.push(isSigned(request, body));
        response.writeHead(seen.at(-1) ? 200 : 401, { 'content-type': 'application/json' }).end('{}');
      });
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  });
  afterAll(() => void server.close());

  const guide = readFileSync(path.join(__dirname, '../../docs/signing-in.md'), 'utf8');
  const auth = /```yaml\n(auth:\n {2}attach:\n {4}let:[\s\S]*?)```/.exec(guide)![1]!;
  const project = (text = auth) =>
    `apis:\n  quay:\n    url: http://127.0.0.1:${(server.address() as AddressInfo).port}\n${text.replace(/^(?=.)/gm, '    ')}`;
  const chain = `api: quay
steps:
  - { call: one, request: 'GET /berths?from=N%201&to=N4' }
  - { call: two, request: POST /arrivals, json: { vessel: 'KM 204/5' } }
`;
  const files = (text?: string) => ({
    'batharon.yaml': project(text),
    'a.chain.yaml': chain,
    'secrets.env': `SIGNING_KEY=${KEY}\n`,
  });

  test('as the guide shows it, a server verifies it, and nothing of it is recorded', async () => {
    const at = folder(files());
    const { status, all } = await at.run(['run', 'a.chain.yaml']);
    expect([status, seen, all]).toEqual([0, [true, true], expect.stringContaining('2 calls')]);
    const sent = at.journals()[0]!.filter(({ type }) => type === 'sent');
    expect(JSON.stringify(sent)).not.toMatch(/signature=[0-9a-f]/);
    expect(JSON.stringify(sent)).toContain('["Quay-Signature","‹Quay-Signature›"]');
  });

  test.each([
    ['day: slice(time, 0, 8)', 'day: slice(tim, 0, 8)', /unknown-name: .*tim/],
    ['day: slice(time, 0, 8)', 'day: slice(day_key, 0, 8)', /used-too-early: "day_key" is computed further down/],
    ['time: formatted(', 'quay-time: formatted(', /invalid-name: /],
    ['time: formatted(', 'request: formatted(', /reserved-name: "request"/],
    ["'{time}'", "'{times}'", /unknown-name: .*times/],
    ["'yyyyMMdd HHmmss'", "'yyyyMMdd", /does-not-parse/],
  ])('%s as %s is refused before anything is sent', async (right, wrong, message) => {
    const at = folder(files(auth.replace(right, wrong)));
    const { status, all } = await at.run(['check', 'a.chain.yaml']);
    expect([status, all]).toEqual([2, expect.stringMatching(message)]);
    expect(all).toContain('batharon.yaml:');
  });

  test('a name that finds nothing says which', async () => {
    const at = folder(files(auth.replace('secret.SIGNING_KEY, day', "captured(request.path, '^/x(.*)'), day")));
    const { status, all } = await at.run(['run', 'a.chain.yaml']);
    expect([status, all]).toEqual([1, expect.stringContaining('captured(')]);
  });
});
