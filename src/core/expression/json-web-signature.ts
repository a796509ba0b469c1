import type { KeyObject } from 'node:crypto';
import { crypto } from '../packages.ts';
import { textOfBase64 } from '../value/base64.ts';
import { base64UrlText, writeJson } from '../value/json-write.ts';
import { DateTime, type ObjectValue, type Value } from '../value/value.ts';

/** A signing algorithm of RFC 7518 section 3.1 or RFC 8037, and the types of keys that it takes. */
type Algorithm = Readonly<{ hash: string | null; types: readonly string[]; curve?: string; isPss?: true }>;

const bits = [256, 384, 512] as const;
const CURVES = { 256: 'prime256v1', 384: 'secp384r1', 512: 'secp521r1' } as const;

const ALGORITHMS: Readonly<Record<string, Algorithm>> = {
  ...Object.fromEntries(
    bits.flatMap((size): (readonly [string, Algorithm])[] => [
      [`HS${size}`, { hash: `sha${size}`, types: ['secret'] }],
      [`RS${size}`, { hash: `sha${size}`, types: ['rsa'] }],
      [`PS${size}`, { hash: `sha${size}`, types: ['rsa', 'rsa-pss'], isPss: true }],
      [`ES${size}`, { hash: `sha${size}`, types: ['ec'], curve: CURVES[size] }],
    ]),
  ),
  EdDSA: { hash: null, types: ['ed25519', 'ed448'] },
};

export const JWS_ALGORITHMS: readonly string[] = Object.keys(ALGORITHMS);

type Refused = Readonly<{ message: string; advice?: string }>;
type JwsKey = Readonly<{ key: KeyObject; id: string | undefined }>;

/**
 * The key of a JSON Web Signature: a secret as text or bytes for HS256 and its like, a private key in PEM for the
 * others, or a JSON Web Key (RFC 7517) of either. What is wrong with it is said in words that show none of it.
 */
export function jwsKeyOf(given: string | Uint8Array, name: string): JwsKey | Refused {
  const isSecret = ALGORITHMS[name]!.types.includes('secret');
  const read = keyOf(given, isSecret);
  if (!read) {
    const message = `The key cannot be read as ${isSecret ? 'a secret' : 'a private key'}`;
    return { message, advice: `${name} needs a private key in PEM, or as a JSON Web Key.` };
  }
  const { key } = read;
  if (algorithmsOf(key).includes(name)) return read;
  return { message: `${name} does not fit this key, which is ${keyWords(key)}`, advice: fittingOf(key) };
}

function keyOf(given: string | Uint8Array, isSecret: boolean): JwsKey | undefined {
  const text = typeof given === 'string' ? given : new TextDecoder().decode(given);
  const webKey = webKeyOf(text);
  if (webKey?.['kty'] === 'oct') {
    const secret = crypto().createSecretKey(String(webKey['k']), 'base64url');
    return { key: secret, id: idOf(webKey) };
  }
  const key = isSecret && !webKey && !text.includes('-----BEGIN') ? secretOf(given) : privateKeyOf(text);
  return key && { key, id: webKey && idOf(webKey) };
}

function secretOf(given: string | Uint8Array): KeyObject {
  return crypto().createSecretKey(typeof given === 'string' ? new TextEncoder().encode(given) : given);
}

function webKeyOf(text: string): Readonly<Record<string, unknown>> | undefined {
  if (!text.trim().startsWith('{')) return undefined;
  try {
    return JSON.parse(text) as Record<string, unknown>;
  } catch {
    return undefined;
  }
}

function idOf({ kid }: Readonly<Record<string, unknown>>): string | undefined {
  return typeof kid === 'string' ? kid : undefined;
}

/** A private key in PEM, its line breaks also as `\n` in one line, or as a JSON Web Key (RFC 7517). */
export function privateKeyOf(text: string): KeyObject | undefined {
  try {
    const webKey = webKeyOf(text);
    if (webKey) return crypto().createPrivateKey({ key: webKey as never, format: 'jwk' });
    return crypto().createPrivateKey(text.replaceAll('\\n', '\n'));
  } catch {
    return undefined;
  }
}

function keyWords({ asymmetricKeyType: type, asymmetricKeyDetails: details }: KeyObject): string {
  if (type === undefined) return 'a secret';
  return `a private key of the type ${type}${details?.namedCurve === undefined ? '' : ` (${details.namedCurve})`}`;
}

/** What a key serves for, in words. */
function fittingOf(key: KeyObject): string {
  const names = algorithmsOf(key);
  return names.length === 0 ? 'No algorithm takes such a key.' : `It serves for ${names.join(', ')}.`;
}

function algorithmsOf(key: KeyObject): readonly string[] {
  const type = key.asymmetricKeyType ?? 'secret';
  const curve = key.asymmetricKeyDetails?.namedCurve;
  return JWS_ALGORITHMS.filter((name) => {
    const each = ALGORITHMS[name]!;
    return each.types.includes(type) && (each.curve === undefined || each.curve === curve);
  });
}

/**
 * A signed JSON Web Token (RFC 7519) of claims, in which instants become whole seconds (NumericDate, section 2). Without
 * an algorithm it is the first that the private key serves for. The id of the key is that of a JSON Web Key unless given.
 */
export function signedToken(
  claims: ObjectValue,
  key: string | Uint8Array,
  algorithm?: string,
  keyId?: string,
): Readonly<{ token: string }> | Refused {
  const name = algorithm ?? fittingAlgorithm(String(key));
  const read = jwsKeyOf(key, name);
  if ('message' in read) return read;
  const kid = keyId || read.id;
  const header = { alg: name, typ: 'JWT', ...(kid === undefined ? {} : { kid }) };
  const input = `${jsonPart(header)}.${jsonPart(withSeconds(claims))}`;
  return { token: `${input}.${jwsSignature(input, read, name)}` };
}

function fittingAlgorithm(key: string): string {
  const read = keyOf(key, false);
  return (read && algorithmsOf(read.key)[0]) ?? 'RS256';
}

function jsonPart(value: Value): string {
  return base64UrlText(new TextEncoder().encode(writeJson(value)));
}

function withSeconds(claims: ObjectValue): Value {
  return Object.fromEntries(
    Object.entries(claims).map(([name, value]) => [
      name,
      value instanceof DateTime ? Math.floor(value.epochMilliseconds / 1000) : value,
    ]),
  );
}

/** Signs a JWS signing input, `header.payload` (RFC 7515 section 5.1); gives the third part. */
export function jwsSignature(input: string, { key }: JwsKey, name: string): string {
  const { hash, types, isPss, curve } = ALGORITHMS[name]!;
  const { createHmac, sign, constants } = crypto();
  const data = new TextEncoder().encode(input);
  if (types.includes('secret')) return base64UrlText(createHmac(hash!, key).update(data).digest());
  const pss = isPss && {
    padding: constants.RSA_PKCS1_PSS_PADDING,
    saltLength: constants.RSA_PSS_SALTLEN_DIGEST,
  };
  const signature = sign(hash, data, { key, ...pss, ...(curve ? { dsaEncoding: 'ieee-p1363' as const } : {}) });
  return base64UrlText(signature);
}

/** The claims of a JSON Web Token (RFC 7519 section 3), unverified, as JSON text; nothing of what is none. */
export function claimsText(token: string): string | undefined {
  const parts = token.trim().split('.');
  const [, payload = ''] = parts;
  if (parts.length !== 3 || payload === '') return undefined;
  const text = textOfBase64(payload);
  return text?.trim().startsWith('{') ? text : undefined;
}
