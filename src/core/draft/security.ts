import { membersOf, plainObject, plainText, type PlainObject } from '../contract/plain.ts';
import type { Description } from '../contract/description.ts';
import { yamlScalar } from '../yaml/quoting.ts';
import type { SecretBook } from './secret-book.ts';

/** Credentials as `auth` writes them, one entry for each scheme; and what has no counterpart. */
export type Security = Readonly<{ schemes: readonly string[]; notes: readonly string[] }>;

/**
 * One of the alternatives of security requirements: the first whose secrets are known, else the first. `isKnown` says of a
 * secret's name whether it has a value.
 */
export function securityOf(
  alternatives: readonly PlainObject[],
  { description, api, secrets, isKnown }: Around,
): Security {
  const made = alternatives.map((each) => {
    const names: string[] = [];
    const secret = (...words: readonly string[]) => {
      const name = secrets.nameFor([api, ...words]);
      names.push(name);
      return `'{secret.${name}}'`;
    };
    const schemes = membersOf(each).map(([name, scopes]) => schemeLine(name, scopes, description, secret));
    return { names, schemes };
  });
  const chosen = made.find(({ names }) => names.length > 0 && names.every(isKnown)) ?? made[0];
  if (!chosen) return { schemes: [], notes: [] };
  for (const name of chosen.names) if (!isKnown(name)) secrets.missingNamed(name);
  return {
    schemes: chosen.schemes.flatMap((each) => ('line' in each ? [each.line] : [])),
    notes: chosen.schemes.flatMap((each) => ('note' in each ? [each.note] : [])),
  };
}

type Around = Readonly<{
  description: Description;
  api: string;
  secrets: SecretBook;
  isKnown(name: string): boolean;
}>;

type Made = Readonly<{ line: string }> | Readonly<{ note: string }>;
type Secret = (...words: readonly string[]) => string;

function schemeLine(name: string, scopes: unknown, description: Description, secret: Secret): Made {
  const scheme = description.scheme(name);
  if (!scheme) return { note: `the security scheme ${name} is not described` };
  const { type, scheme: kind } = scheme;
  if (type === 'apiKey') return apiKeyLine(scheme, secret);
  if (type === 'oauth2') return oauthLine(name, scheme, scopes, secret);
  const http = type === 'http' ? String(kind as string).toLowerCase() : '';
  if (http === 'bearer') return { line: `bearer: ${secret('token')}` };
  if (http === 'basic' || http === 'digest')
    return { line: `${http}: { user: ${secret('user')}, password: ${secret('password')} }` };
  const what = type === 'http' ? `http ${http}` : String(type as string);
  return { note: `the security scheme ${name} (${what}) has no counterpart: add auth to the API` };
}

function apiKeyLine({ in: place, name }: PlainObject, secret: Secret): Made {
  const words = String(name as string).replace(/^x-/i, '');
  return {
    line: `api-key: { ${String(place as string)}: ${yamlScalar(String(name as string), true)}, value: ${secret(words)} }`,
  };
}

const FLOWS: Readonly<Record<string, string>> = {
  clientCredentials: 'client-credentials',
  authorizationCode: 'authorization-code',
  password: 'password',
};

function oauthLine(name: string, scheme: PlainObject, scopes: unknown, secret: Secret): Made {
  const flows = plainObject(scheme['flows']) ?? {};
  const flow = Object.keys(FLOWS).find((each) => flows[each] !== undefined);
  const own = flow === undefined ? undefined : plainObject(flows[flow]);
  if (!flow || !own) return { note: `the security scheme ${name} (oauth2) has no flow that is supported` };
  const asked = Array.isArray(scopes) && scopes.length > 0 ? `, scope: ${yamlScalar(scopes.join(' '), true)}` : '';
  const authorize = plainText(own['authorizationUrl']);
  const more = [
    `grant: ${FLOWS[flow]}`,
    `token-url: ${yamlScalar(plainText(own['tokenUrl']) ?? '', true)}`,
    ...(flow === 'authorizationCode' && authorize ? [`authorize-url: ${yamlScalar(authorize, true)}`] : []),
    `client-id: ${secret('client', 'id')}`,
    ...(flow === 'authorizationCode' ? [] : [`client-secret: ${secret('client', 'secret')}`]),
    ...(flow === 'password' ? [`user: ${secret('user')}`, `password: ${secret('password')}`] : []),
  ];
  return { line: `oauth2: { ${more.join(', ')}${asked} }` };
}
