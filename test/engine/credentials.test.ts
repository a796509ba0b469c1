import { createHash, createHmac } from 'node:crypto';
import { chainOf, coreRun } from '../support/engine.ts';

test('a signature covers the digest of the body that goes with it', async () => {
  const project = `apis:
  harbour:
    url: http://127.0.0.1:1/v1
    auth:
      signature: { key-id: k1, key: '{secret.KEY}', algorithm: hmac-sha256, covers: ['@method', content-digest] }
`;
  const chain = chainOf('- call: a\n  request: POST /a\n  json: { n: 1 }');
  const { sent } = await coreRun(chain, { project, secrets: { KEY: 'k-4711-abcdef' }, answers: [{ body: '{}' }] });
  const headers = new Map(sent[0]!.headers);
  const digest = createHash('sha256')
    .update(sent[0]!.body as string)
    .digest('base64');
  expect(headers.get('Content-Digest')).toBe(`sha-256=:${digest}:`);
  const parameters = headers.get('Signature-Input')!.replace(/^sig1=/, '');
  const base = `"@method": POST\n"content-digest": sha-256=:${digest}:\n"@signature-params": ${parameters}`;
  const signature = createHmac('sha256', 'k-4711-abcdef').update(base).digest('base64');
  expect(headers.get('Signature')).toBe(`sig1=:${signature}:`);
});

test('an assertion may say who asks, and then no client does', async () => {
  const project = `apis:
  harbour:
    url: http://127.0.0.1:1/v1
    auth:
      oauth2: { grant: jwt-bearer, token-url: 'http://127.0.0.1:1/token', assertion: '{secret.ASSERTION}' }
`;
  const answers = [{ body: '{"access_token": "tok-4711-abc", "token_type": "Bearer"}' }, { body: '{}' }];
  const secrets = { ASSERTION: 'aaaa.bbbb.cccc' };
  const { sent, exit } = await coreRun(chainOf('- call: a\n  request: GET /a'), { project, secrets, answers });
  expect(exit).toBe(0);
  expect(Object.fromEntries(new URLSearchParams(sent[0]!.body as string))).toEqual({
    grant_type: 'urn:ietf:params:oauth:grant-type:jwt-bearer',
    assertion: 'aaaa.bbbb.cccc',
  });
  expect(sent[1]!.headers).toContainEqual(['Authorization', 'Bearer tok-4711-abc']);
});

test('what is attached to a call reads names of the chain and of the request alike', async () => {
  const chain = chainOf(`- let: { day: "'2026-05-23'" }
- call: a
  request: GET /a
  auth: { attach: { let: { sum: "day + ' ' + request.path" }, headers: { X-Sum: '{sum}', X-Both: '{day}{request.method}' } } }`);
  const { sent, exit } = await coreRun(chain, { answers: [{ body: '{}' }] });
  expect(exit).toBe(0);
  expect(new Map(sent[0]!.headers).get('X-Sum')).toBe('2026-05-23 /v1/a');
  expect(new Map(sent[0]!.headers).get('X-Both')).toBe('2026-05-23GET');
});
