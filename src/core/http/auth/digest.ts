import { crypto } from '../../packages.ts';
import { text } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { fillText } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import { headerOf, splitUrl, type HttpRequest, type HttpResponse } from '../message.ts';
import { challengesOf } from './challenges.ts';
import type { Authenticator, AuthScheme, Credential, Signing } from './definition.ts';

type Digest = Readonly<{ user: TextTemplate; password: TextTemplate }>;

/** Digest access authentication (RFC 7616): SHA-256 and MD5, `qop=auth`, counted nonces, stale ones renewed. */
export const digest: AuthScheme<Digest> = {
  name: 'digest',
  schema: mapping({
    user: text('a user name').describe('The user name.'),
    password: text('a password').describe('The password; it is never sent.'),
  }).describe('User name and password, proven by a digest (RFC 7616).'),
  texts: ({ user, password }) => [user, password],
  secrets: ({ password }) => [password],
  authenticator: (definition) => new DigestAuthenticator(definition),
};

/** Hashes by the names that RFC 7616 section 3.3 gives them, the strongest first. */
const ALGORITHMS: Readonly<Record<string, string>> = { 'sha-512-256': 'sha512-256', 'sha-256': 'sha256', md5: 'md5' };

/** What a server asks a digest of. */
type DigestChallenge = Readonly<{
  realm: string;
  nonce: string;
  opaque: string | undefined;
  /** As the server wrote it; `undefined` means MD5. */
  algorithm: string | undefined;
  /** Whether it offers `qop=auth`; without it the older form of RFC 2069 is meant. */
  hasQop: boolean;
  userhash: boolean;
}>;

/** Knows the server's challenge from the first 401 on, and then answers before it is asked. */
class DigestAuthenticator implements Authenticator {
  generation = 0;
  private challenge: DigestChallenge | undefined;
  private count = 0;

  constructor(private readonly definition: Digest) {}

  credentials(request: HttpRequest, { resolver, randomBytes }: Signing): readonly Credential[] {
    const { challenge } = this;
    if (!challenge) return [];
    const name = 'Authorization';
    const user = fillText(this.definition.user, resolver);
    if (resolver.forRecord) return [{ place: 'header', name, value: `Digest username="${user}" ‹${name}›` }];
    this.count++;
    const value = digestHeader(challenge, {
      user,
      password: fillText(this.definition.password, resolver),
      method: request.method,
      uri: splitUrl(request.url).path,
      count: this.count,
      clientNonce: hexOf(randomBytes(16)),
    });
    return [{ place: 'header', name, value }];
  }

  renewed(response: HttpResponse, generation: number): boolean {
    if (generation !== this.generation) return true;
    const challenge = chosen(response);
    // The same nonce again, and not because it is stale: the password is wrong.
    if (!challenge || (this.challenge && !isStale(response))) return false;
    this.challenge = challenge;
    this.count = 0;
    this.generation++;
    return true;
  }
}

function digestChallenges(response: HttpResponse) {
  return challengesOf(headerOf(response.headers, 'www-authenticate')).filter(({ scheme }) => scheme === 'digest');
}

function isStale(response: HttpResponse): boolean {
  return digestChallenges(response).some(({ parameters }) => parameters['stale']?.toLowerCase() === 'true');
}

/** The strongest challenge that can be answered. */
function chosen(response: HttpResponse): DigestChallenge | undefined {
  const offers = digestChallenges(response).flatMap(({ parameters }) => {
    const { realm = '', nonce, opaque, algorithm, qop, userhash } = parameters;
    const strength = Object.keys(ALGORITHMS).indexOf(hashName(algorithm));
    const hasQop = qop === undefined ? false : qop.split(',').some((each) => each.trim() === 'auth');
    if (nonce === undefined || strength < 0 || (qop !== undefined && !hasQop)) return [];
    return [{ strength, challenge: { realm, nonce, opaque, algorithm, hasQop, userhash: userhash === 'true' } }];
  });
  return offers.sort((a, b) => a.strength - b.strength)[0]?.challenge;
}

function hashName(algorithm: string | undefined): string {
  return (algorithm ?? 'MD5').toLowerCase().replace(/-sess$/, '');
}

type Answer = Readonly<{
  user: string;
  password: string;
  method: string;
  uri: string;
  count: number;
  clientNonce: string;
}>;

/** The value of `Authorization` that answers a challenge. RFC 7616 section 3.4. */
export function digestHeader(challenge: DigestChallenge, answer: Answer): string {
  const { realm, nonce, opaque, algorithm, hasQop, userhash } = challenge;
  const { user, password, method, uri, count, clientNonce } = answer;
  const name = ALGORITHMS[hashName(algorithm)]!;
  const hash = (content: string) => crypto().createHash(name).update(content, 'utf8').digest('hex');
  const plain = hash(`${user}:${realm}:${password}`);
  const isSession = /-sess$/i.test(algorithm ?? '');
  const secret = isSession ? hash(`${plain}:${nonce}:${clientNonce}`) : plain;
  const target = hash(`${method}:${uri}`);
  const nc = count.toString(16).padStart(8, '0');
  const response = hash(
    hasQop ? `${secret}:${nonce}:${nc}:${clientNonce}:auth:${target}` : `${secret}:${nonce}:${target}`,
  );
  const quoted = (content: string) => `"${content.replace(/["\\]/g, '\\$&')}"`;
  // RFC 7616 section 3.4: a name that is not ASCII goes in the extended form of RFC 8187.
  const username = userhash
    ? `username=${quoted(hash(`${user}:${realm}`))}`
    : /^[\u0020-\u007e]*$/.test(user)
      ? `username=${quoted(user)}`
      : `username*=UTF-8''${encodeURIComponent(user)}`;
  return `Digest ${[
    username,
    `realm=${quoted(realm)}`,
    `uri=${quoted(uri)}`,
    ...(algorithm === undefined ? [] : [`algorithm=${algorithm}`]),
    `nonce=${quoted(nonce)}`,
    ...(hasQop
      ? [`nc=${nc}`, `cnonce=${quoted(clientNonce)}`, 'qop=auth']
      : isSession
        ? [`cnonce=${quoted(clientNonce)}`]
        : []),
    `response=${quoted(response)}`,
    ...(opaque === undefined ? [] : [`opaque=${quoted(opaque)}`]),
    ...(userhash ? ['userhash=true'] : []),
  ].join(', ')}`;
}

function hexOf(bytes: Uint8Array): string {
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}
