import { createHash, createHmac } from 'node:crypto';
import { chainOf, coreRun } from '../support/engine.ts';
import { keptOf } from '../support/kept.ts';

test('a length of time that has passed is not waited for again', async () => {
  const chain = chainOf('- wait: 90s\n- call: a\n  request: GET /a\n- wait: 30s\n- say: done');
  const broken = await coreRun(chain, { answers: [{ status: 500 }] });
  expect([broken.exit, broken.waited]).toEqual([1, 90_000]);
  const rest = await coreRun(chain, { answers: [{ body: '{}' }], recorded: keptOf(broken.events, 'go-on') });
  expect([rest.exit, rest.waited]).toEqual([0, 30_000]);
});

test('a change that was sent and not answered is not sent again by itself, whoever asked for the run', async () => {
  const chain = chainOf('- call: a\n  request: POST /a');
  const whole = await coreRun(chain, { answers: [{ body: '{}' }] });
  const sentOnly = whole.events.filter(({ type }) => !['answered', 'ended', 'finished'].includes(type));
  const rest = await coreRun(chain, { answers: [{ body: '{}' }], recorded: keptOf(sentOnly, 'go-on') });
  expect([rest.exit, rest.sent, rest.codes]).toEqual([3, [], expect.arrayContaining(['in-doubt'])]);
});

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
