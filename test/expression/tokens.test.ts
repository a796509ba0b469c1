import { createPublicKey, generateKeyPairSync, verify } from 'node:crypto';
import { jwsKeyOf, jwsSignature, JWS_ALGORITHMS } from '../../src/core/expression/json-web-signature.ts';
import { evaluated } from '../support/expressions.ts';

function signatureOf(input: string, key: string, algorithm: string): string {
  const read = jwsKeyOf(key, algorithm);
  return 'message' in read ? `${read.message}. ${read.advice}` : jwsSignature(input, read, algorithm);
}

/** RFC 7515 appendix A.1, which is also the token of RFC 7519 section 3.1. */
const INPUT =
  'eyJ0eXAiOiJKV1QiLA0KICJhbGciOiJIUzI1NiJ9.eyJpc3MiOiJqb2UiLA0KICJleHAiOjEzMDA4MTkzODAsDQogImh0dHA6Ly9leGFtcGxlLmNvbS9pc19yb290Ijp0cnVlfQ';
const OCT = JSON.stringify({
  kty: 'oct',
  k: 'AyM1SysPpbyDfgZld3umj1qzKObwVMkoqQ-EstJQLr_T-1qS0gZH75aKtMN3Yj0iPS4hcgUuTwjAzZr1Z9CAow',
});
/** RFC 7515 appendix A.3. */
const EC = {
  kty: 'EC',
  crv: 'P-256',
  x: 'f83OJ3D2xF1Bg8vub9tLe1gHMzV76e8Tus9uPHvRVEU',
  y: 'x_FEzRu9m36HLN_tue659LNpXW6pCyStikYjKIWI5a0',
  d: 'jpsQnnGQmL-YBIffH1136cspYG6-0iY7X1fCE9-E9LI',
};
/** RFC 8037 appendix A.4. */
const ED = {
  kty: 'OKP',
  crv: 'Ed25519',
  d: 'nWGxne_9WmC6hEr0kuwsxERJxWl7MmkZcDusAxyuf2A',
  x: '11qYAYKxCrfVS_7TyWQHOg7hcvPapiMlrwIaaPcHURo',
};

test('the examples of RFC 7515 and RFC 8037', () => {
  expect(signatureOf(INPUT, OCT, 'HS256')).toBe('dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk');
  expect(signatureOf('eyJhbGciOiJFZERTQSJ9.RXhhbXBsZSBvZiBFZDI1NTE5IHNpZ25pbmc', JSON.stringify(ED), 'EdDSA')).toBe(
    'hgyY0il_MGCjP0JzlnLWG1PPOt7-09PGcvMg3AIbQR6dWbhijcNR4ki4iylGjg5BhVsPt9g7sVvpAr_MuM0KAg',
  );
  const signature = Buffer.from(signatureOf(INPUT, JSON.stringify(EC), 'ES256'), 'base64url');
  const key = createPublicKey({ key: EC, format: 'jwk' });
  expect(verify('sha256', Buffer.from(INPUT), { key, dsaEncoding: 'ieee-p1363' }, signature)).toBe(true);
});

test('every algorithm signs what its public key verifies', () => {
  const curves: Readonly<Record<string, string>> = { 256: 'P-256', 384: 'P-384', 512: 'P-521' };
  for (const name of JWS_ALGORITHMS.filter((each) => !each.startsWith('HS'))) {
    const size = name.slice(2);
    const { publicKey, privateKey } =
      name === 'EdDSA'
        ? generateKeyPairSync('ed25519')
        : name.startsWith('ES')
          ? generateKeyPairSync('ec', { namedCurve: curves[size]! })
          : generateKeyPairSync('rsa', { modulusLength: 2048 });
    const pem = String(privateKey.export({ type: 'pkcs8', format: 'pem' })).replaceAll('\n', '\\n');
    const signature = Buffer.from(signatureOf('a.b', pem, name), 'base64url');
    const pss = name.startsWith('PS') ? { padding: 6, saltLength: Number(size) / 8 } : {};
    const options = {
      key: publicKey,
      ...pss,
      ...(name.startsWith('ES') ? { dsaEncoding: 'ieee-p1363' as const } : {}),
    };
    expect([name, verify(name === 'EdDSA' ? null : `sha${size}`, Buffer.from('a.b'), options, signature)]).toEqual([
      name,
      true,
    ]);
  }
});

test.each([
  [
    JSON.stringify(EC),
    'RS256',
    'RS256 does not fit this key, which is a private key of the type ec (prime256v1). It serves for ES256.',
  ],
  [
    JSON.stringify(EC),
    'ES384',
    'ES384 does not fit this key, which is a private key of the type ec (prime256v1). It serves for ES256.',
  ],
  [
    JSON.stringify(EC),
    'HS256',
    'HS256 does not fit this key, which is a private key of the type ec (prime256v1). It serves for ES256.',
  ],
  [OCT, 'ES256', 'ES256 does not fit this key, which is a secret. It serves for HS256, HS384, HS512.'],
  [
    'no key',
    'RS256',
    'The key cannot be read as a private key. RS256 needs a private key in PEM, or as a JSON Web Key.',
  ],
])('a key that does not fit: %#', (key, algorithm, message) => {
  expect(signatureOf('a.b', key, algorithm)).toBe(message);
});

test('instants in claims are seconds, and a kid of the key goes into the header', () => {
  const names = {
    claims: { exp: evaluated("date_time('2026-05-23T00:00:00Z')").value! },
    key: '{"kty": "oct", "k": "abc", "kid": "k1"}',
  };
  const valueOf = (text: string) => evaluated(text, undefined, names).value;
  expect(valueOf("jwt_claims(jwt(claims, key, 'HS256'))")).toEqual({ exp: 1779494400 });
  expect(valueOf("base64_decoded(captured(jwt(claims, key, 'HS256'), '^([^.]*)'))")).toBe(
    '{"alg":"HS256","typ":"JWT","kid":"k1"}',
  );
});
