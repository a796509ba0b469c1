import { claimsText } from '../../expression/json-web-signature.ts';
import type { Json } from '../../value/value.ts';

/** Claims that say what a token is for (RFC 7519, RFC 9068); others may say who somebody is. */
const SHOWN = ['iss', 'aud', 'client_id', 'azp', 'scope', 'scp', 'iat', 'nbf', 'exp'];

/** What a token says of itself, when it is a JWT (RFC 7519); nothing of one that is not. Never the token. */
export function claimsOf(token: string): Readonly<{ claims?: { [name: string]: Json }; otherClaims?: string[] }> {
  const text = claimsText(token);
  if (text === undefined) return {};
  try {
    const all = JSON.parse(text) as { [name: string]: Json };
    const names = Object.keys(all);
    return {
      claims: Object.fromEntries(names.filter((name) => SHOWN.includes(name)).map((name) => [name, all[name]!])),
      otherClaims: names.filter((name) => !SHOWN.includes(name)),
    };
  } catch {
    return {};
  }
}
