import type { KeyObject } from 'node:crypto';
import { privateKeyOf } from '../../expression/json-web-signature.ts';
import { crypto } from '../../packages.ts';

/** Algorithms by the names of RFC 9421 section 3.3. */
export const SIGNATURE_ALGORITHMS = ['hmac-sha256', 'ed25519', 'ecdsa-p256-sha256', 'rsa-pss-sha512'] as const;
export type SignatureAlgorithm = (typeof SIGNATURE_ALGORITHMS)[number];

const KEY_TYPES: Readonly<Record<SignatureAlgorithm, readonly string[]>> = {
  'hmac-sha256': ['secret'],
  ed25519: ['ed25519'],
  'ecdsa-p256-sha256': ['ec'],
  'rsa-pss-sha512': ['rsa', 'rsa-pss'],
};

/** A key from a text, or what is wrong with it, in words that show none of it. */
export function keyOf(
  text: string,
  algorithm: SignatureAlgorithm,
  encoding: 'text' | 'base64',
): Readonly<{ key: KeyObject }> | Readonly<{ message: string; advice: string }> {
  if (algorithm === 'hmac-sha256') {
    return { key: crypto().createSecretKey(text, encoding === 'base64' ? 'base64' : 'utf8') };
  }
  const advice = `${algorithm} needs a private key in PEM, or as a JSON Web Key.`;
  const key = privateKeyOf(text);
  if (!key) return { message: 'The key cannot be read as a private key', advice };
  const type = key.asymmetricKeyType ?? '';
  return KEY_TYPES[algorithm].includes(type) ? { key } : { message: `The key is of the type ${type}`, advice };
}

/** RFC 9421 section 3.3. */
export function signed(text: string, key: KeyObject, algorithm: SignatureAlgorithm): Uint8Array {
  const { createHmac, sign, constants } = crypto();
  const data = new TextEncoder().encode(text);
  switch (algorithm) {
    case 'hmac-sha256':
      return createHmac('sha256', key).update(data).digest();
    case 'ed25519':
      return sign(null, data, key);
    case 'ecdsa-p256-sha256':
      return sign('sha256', data, { key, dsaEncoding: 'ieee-p1363' });
    case 'rsa-pss-sha512':
      return sign('sha512', data, { key, padding: constants.RSA_PKCS1_PSS_PADDING, saltLength: 64 });
  }
}
