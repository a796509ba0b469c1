import { createHash, createHmac } from 'node:crypto';
import { calledBack } from '../support/called-back.ts';
import { testRunHost } from '../support/hosts.ts';
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

describe('the signature of a callback', () => {
  const chain = chainOf(`- listen: hook
- receive: hook
  verify:
    hmac: sha256
    key: ['{secret.NEXT}', '{secret.KEY}']
    header: X-Sign
    parameter: v
    message: [headers.x_time, "'.'", raw]
    time: headers.x_time
  respond: { status: 201, json: { seen: '{$.vessel}' } }
  refuse: { status: 403, text: 'not {$.vessel}' }
  keep: { vessel: $.vessel }`);
  const secrets = { KEY: 'k-4711-abc', NEXT: 'k-4712-abc' };
  const body = '{"vessel": "KM 204/5"}';

  async function received(time: string, key = secrets.KEY) {
    const v = createHmac('sha256', key).update(`${time}.${body}`).digest('hex');
    const headers = [
      ['X-Time', time],
      ['X-Sign', `v=${v}`],
    ] as const;
    const hook = calledBack([body], headers);
    const run = await coreRun(chain, { secrets, openCallbacks: async () => hook });
    return { ...run, answer: hook.answers[0]! };
  }

  test('one that fits is answered as respond says, whichever key made it', async () => {
    for (const key of [secrets.KEY, secrets.NEXT]) {
      const { exit, answer } = await received(String(testRunHost.nowMs() / 1000), key);
      expect([exit, answer.status, answer.body]).toEqual([0, 201, '{"seen":"KM 204/5"}']);
    }
  });

  test.each([
    ['another key', String(testRunHost.nowMs() / 1000), 'k-4713-abc', 'not made with any of the 2 keys'],
    ['too old', String(testRunHost.nowMs() / 1000 - 3600), secrets.KEY, 'was signed 1 h ago'],
    ['no time', 'yesterday', secrets.KEY, 'time needs a point in time, not a string'],
  ])('one that does not is answered as refuse says: %s', async (_what, time, key, message) => {
    const { exit, answer, codes, events } = await received(time, key);
    expect([exit, answer.status, answer.body, codes]).toEqual([1, 403, 'not KM 204/5', ['callback-not-verified']]);
    expect(JSON.stringify(events)).toContain(message);
    expect(JSON.stringify(events)).not.toMatch(/k-471\d/);
  });
});
