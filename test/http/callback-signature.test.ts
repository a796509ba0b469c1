import { createHmac } from 'node:crypto';
import { signatureMismatch, type ExpectedSignature } from '../../src/core/http/callback-signature.ts';

const KEY = 'a2V5LW9mLXRoZS1xdWF5'; // `key-of-the-quay` in base64.
const BODY = '{"vessel": "KM 204/5"}\n';
const NOW = 1_779_494_400_000;

const signed = (text = BODY, key: string | Buffer = KEY, hash = 'sha256') =>
  createHmac(hash, key).update(text).digest();
const hex = (...given: Parameters<typeof signed>) => signed(...given).toString('hex');

const expected = (more: Partial<ExpectedSignature> = {}): ExpectedSignature => ({
  hmac: 'sha256',
  encoding: 'hex',
  'key-encoding': 'text',
  keys: [KEY],
  header: 'X-Sign',
  parameter: undefined,
  prefix: '',
  message: new TextEncoder().encode(BODY),
  signedAt: undefined,
  ...more,
});

function told(
  value: string | undefined,
  more: Partial<ExpectedSignature> = {},
  others: readonly [string, string][] = [],
) {
  const headers = [...(value === undefined ? [] : [['x-sign', value] as const]), ...others];
  const mismatch = signatureMismatch(expected(more), headers, new TextEncoder().encode(BODY));
  return mismatch && [mismatch.message, mismatch.advice].filter(Boolean).join('. ');
}

const at = (timeMs: number) => ({ timeMs, nowMs: NOW, toleranceMs: 300_000 });
const timed = { parameter: 'v', message: new TextEncoder().encode(`1779494400.${BODY}`), signedAt: at(NOW) };

test.each([
  ['in hexadecimal', hex(), {}],
  ['in upper case', hex().toUpperCase(), {}],
  ['behind a prefix', `sha256=${hex()}`, { prefix: 'sha256=' }],
  ['in base64', signed().toString('base64'), { encoding: 'base64' }],
  ['in base64url', signed().toString('base64url'), { encoding: 'base64' }],
  ['with a key in base64', hex(BODY, Buffer.from(KEY, 'base64')), { 'key-encoding': 'base64' }],
  ['with sha1', hex(BODY, KEY, 'sha1'), { hmac: 'sha1' }],
  ['with the second of two keys', hex(BODY, 'old key'), { keys: ['new key', 'old key'] }],
  ['as the second of two signatures', `t=1779494400,v=${hex('x')},v=${hex(`1779494400.${BODY}`)}`, timed],
] as const)('a signature that fits: %s', (_what, value, more) => {
  expect(told(value, more)).toBeUndefined();
});

test.each<readonly [string | undefined, Partial<ExpectedSignature>, string]>([
  [undefined, {}, 'The request has no header X-Sign. No header of it looks like a signature.'],
  ['', {}, 'an empty string, which is 0 bytes'],
  [hex().slice(2), {}, '62 characters of hexadecimal in lower case, which is 31 bytes; sha256 makes 32'],
  [hex(BODY, 'x', 'sha1'), {}, '20 bytes; sha256 makes 32. So many are made by sha1, but not with this key.'],
  [hex(BODY, KEY, 'sha1'), {}, 'It fits with hmac: sha1.'],
  [hex(BODY, KEY, 'sha512'), {}, 'It fits with hmac: sha512.'],
  [signed().toString('base64'), {}, 'It fits with encoding: base64.'],
  [signed(BODY, KEY, 'sha1').toString('base64'), {}, 'It fits with hmac: sha1 and encoding: base64.'],
  [hex(BODY, Buffer.from(KEY, 'base64')), {}, 'It fits with key-encoding: base64.'],
  [hex(BODY, Buffer.from('00ff17', 'hex')), { keys: ['00ff17'] }, 'It fits with key-encoding: hex.'],
  [hex(BODY.trimEnd()), {}, 'It fits with the body without its last line break.'],
  [hex(`${BODY}\n`), {}, 'It fits with the body with a line break at its end.'],
  [hex('{"vessel":"KM 204/5"}'), {}, 'It fits with the body as JSON without blanks.'],
  [`sha256=${hex()}`, {}, 'sha256= and 64 characters of hexadecimal in lower case, which is not hex'],
  [hex(), { prefix: 'sha256=' }, 'does not begin with the prefix "sha256="'],
  [hex(BODY, 'another key'), {}, 'was not made with the key over these bytes. The key is another one'],
  [hex(BODY, 'another key'), { keys: ['a', 'b'] }, 'was not made with any of the 2 keys'],
  ['not a signature', {}, '15 characters, which is not hex'],
  [`t=1,v=${hex()}`, { parameter: 's' }, 'has no parameter s. Its parameters are t, v.'],
  [`t=1,v=${hex()}`, timed, 'It fits with message: [raw].'],
  [
    `v=${hex(`1779494400.${BODY}`)}`,
    { ...timed, message: new TextEncoder().encode(BODY) },
    "message: [TIME, '.', raw]",
  ],
  [hex(), { signedAt: at(NOW - 720_000) }, 'was signed 12 min ago, and the tolerance is 5 min'],
  [hex(), { signedAt: at(NOW + 3_600_000) }, '1 h in the future'],
])('%s %j', (value, more, message) => {
  const text = told(value, more);
  expect(text).toContain(message);
  for (const hidden of [KEY, hex(), 'another key']) expect(text).not.toContain(hidden);
});

test('a header that looks like the one that is missing is named', () => {
  expect(told(undefined, {}, [['X-Quay-Signature', 'x']])).toContain('It has X-Quay-Signature.');
});
