import { choice, named, parameter, text } from '../../schema/leaves.ts';
import { wholeNumber } from '../../schema/measures.ts';
import { mapping } from '../../schema/shape.ts';
import { textsOf } from '../../template/template.ts';
import type { HttpRequest, HttpResponse } from '../message.ts';
import type { AuthHost, Authenticator, AuthProblem, AuthScheme, Credential, Signing } from './definition.ts';
import { GRANTS, type OAuth2 } from './grants/definition.ts';
import { grants } from './grants/list.ts';
import { Issuer, type Tokens } from './grants/issuer.ts';
import { claimsOf } from './claims.ts';
import { oneFlight } from './one-flight.ts';
import type { Clock } from '../../ports.ts';

const shape = {
  grant: choice(...GRANTS).describe('How the token is obtained.'),
  'token-url': text('a URL').describe('The token endpoint.'),
  'client-id': text('the id of a client')
    .optional()
    .describe('The id of the client; jwt-bearer and token-exchange may do without.'),
  'client-secret': text('a secret').optional().describe('The secret of the client; public clients have none.'),
  'client-auth': choice('basic', 'post', 'private-key-jwt')
    .optional()
    .describe('How the client authenticates: basic (the default), post, or private-key-jwt with key.'),
  key: text('a private key')
    .optional()
    .describe('For private-key-jwt, and for jwt-bearer with claims: a private key in PEM, or as a JSON Web Key.'),
  'key-id': text('the id of a key').optional().describe('With key: the id of the key at the server.'),
  scope: text('scopes').optional().describe('The requested scopes, separated by spaces.'),
  'authorize-url': text('a URL').optional().describe('For authorization-code: where a person signs in.'),
  'redirect-port': wholeNumber('a port')
    .optional()
    .describe('For authorization-code: the port of the loopback address, if the server requires a fixed one.'),
  'device-url': text('a URL').optional().describe('For device: the device authorization endpoint.'),
  'refresh-token': text('a refresh token').optional().describe('For refresh-token: the initial token.'),
  user: text('a user name').optional().describe('For password: the user name.'),
  password: text('a password').optional().describe('For password: the password.'),
  assertion: text('a signed token').optional().describe('For jwt-bearer: the assertion, a signed JSON Web Token.'),
  claims: named(parameter())
    .optional()
    .describe(
      'For jwt-bearer: the claims of an assertion, signed with key; iss, sub, aud, iat, exp and jti are added.',
    ),
  'subject-token': text('a token').optional().describe('For token-exchange: the token to exchange.'),
  'subject-token-type': text('a URI').optional().describe('For token-exchange: what it is; an access token otherwise.'),
  'actor-token': text('a token').optional().describe('For token-exchange: the token of who acts for its subject.'),
  'actor-token-type': text('a URI').optional().describe('For token-exchange: what actor-token is.'),
  issuer: text('a URL').optional().describe('The issuer that a response must name, if it names one (RFC 9207).'),
  parameters: named(parameter()).optional().describe('Further parameters of the token request, such as audience.'),
};

const SECRETS = [
  'client-secret',
  'key',
  'refresh-token',
  'password',
  'assertion',
  'subject-token',
  'actor-token',
] as const;
const URLS = ['token-url', 'authorize-url', 'device-url'] as const;

/** OAuth 2.0 (RFC 6749): the token is got when it is first needed, and shared by all calls. */
export const oauth2: AuthScheme<OAuth2> = {
  name: 'oauth2',
  schema: mapping(shape)
    .transform((given, context): OAuth2 => {
      const { needs } = grants[given.grant ?? 'client-credentials'];
      const lacking = needs
        .map((each) => (typeof each === 'string' ? [each] : each))
        .flatMap((keys) => (keys.some((key) => given[key] !== undefined) ? [] : [keys.join(' or ')]));
      if ((given['client-auth'] === 'private-key-jwt' || given.claims) && !given.key) lacking.push('key');
      if (lacking.length > 0) {
        const message = `${lacking.join(' and ')} for the grant ${given.grant}`;
        context.issues.push({ code: 'custom', message, input: given });
      }
      return given as OAuth2;
    })
    .describe('An OAuth 2.0 client: a token is obtained when it is first needed, and renewed.'),
  texts: (value) => [
    ...Object.values(value).filter((each) => typeof each === 'object' && 'pieces' in each),
    ...[...(value.parameters ?? []), ...(value.claims ?? [])].flatMap((entry) => textsOf(entry.value)),
  ],
  secrets: (value) => SECRETS.flatMap((key) => (value[key] ? [value[key]] : [])),
  urls: (value) => URLS.flatMap((key) => (value[key] ? [value[key]] : [])),
  authenticator: (definition) => new OAuthAuthenticator(definition),
};

/** A token is renewed when less than this of its life is left, and less than a tenth of it. */
const MARGIN_MS = 60_000;

class OAuthAuthenticator implements Authenticator {
  generation = 0;
  private tokens: Tokens | undefined;
  private renewAt = Infinity;
  private readonly flight = oneFlight<AuthProblem | undefined>();

  constructor(private readonly definition: OAuth2) {}

  ready(host: AuthHost): Promise<AuthProblem | undefined> {
    if (!this.isStale(host.clock)) return Promise.resolve(undefined);
    return this.flight(() => this.obtain(host));
  }

  isStale(clock: Clock): boolean {
    return !this.tokens || clock.nowMs() >= this.renewAt;
  }

  /** The token fields as `sign-in` tells of them. */
  get current(): Tokens | undefined {
    return this.tokens;
  }

  private async obtain(host: AuthHost): Promise<AuthProblem | undefined> {
    const issuer = new Issuer(this.definition, host);
    const started = host.clock.nowMs();
    const refreshed = this.tokens !== undefined;
    const outcome = await issuer.tokens(this.tokens?.refreshToken);
    if ('problem' in outcome) return outcome.problem;
    this.tokens = outcome.tokens;
    this.generation++;
    const { expiresIn } = outcome.tokens;
    const life = expiresIn === undefined ? Infinity : expiresIn * 1000;
    this.renewAt = started + life - Math.min(MARGIN_MS, life / 10);
    const { scope: asked, tokens } = outcome;
    const { scope: given } = tokens;
    host.made({
      scheme: `oauth2 ${this.definition.grant}`,
      refreshed,
      ...(life === Infinity ? {} : { expires: started + life }),
      ...(asked === undefined ? {} : { asked }),
      ...(given === undefined ? {} : { given }),
      ...claimsOf(tokens.accessToken),
    });
    return undefined;
  }

  credentials(_request: HttpRequest, { resolver }: Signing): readonly Credential[] {
    const value = resolver.forRecord ? '‹access_token›' : (this.tokens?.accessToken ?? '');
    return [{ place: 'header', name: 'Authorization', value: `Bearer ${value}` }];
  }

  renewed(_response: HttpResponse, generation: number): boolean {
    if (generation === this.generation) this.renewAt = -Infinity;
    return true;
  }
}
