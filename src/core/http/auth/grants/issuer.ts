import type * as OAuth from 'oauth4webapi';
import { privateKeyOf } from '../../../expression/json-web-signature.ts';
import { oauth4webapi } from '../../../packages.ts';
import { fillText, parameterValues } from '../../../template/fill.ts';
import { textOf } from '../../../value/text.ts';
import type { HttpResponse } from '../../message.ts';
import type { AuthHost, AuthProblem } from '../definition.ts';

import type { GrantContext, TextKey, OAuth2 } from './definition.ts';
import { grants } from './list.ts';

/** What a token endpoint gave. `expiresIn` is in seconds. */
export type Tokens = Readonly<{
  accessToken: string;
  refreshToken: string | undefined;
  expiresIn: number | undefined;
  scope: string | undefined;
}>;

type TokensOutcome = Readonly<{ tokens: Tokens; scope?: string | undefined }> | Readonly<{ problem: AuthProblem }>;

/** Fields of token responses that are secret whatever they hold. */
const SECRET_FIELDS = ['access_token', 'refresh_token', 'id_token'];

/** What stands for a client where there is none; it is never sent. */
const NOBODY = '-';

/** A token that is exchanged need be no bearer token (RFC 8693 section 2.2.1); it is sent as one. */
const TYPES = { recognizedTokenTypes: { n_a: () => {} } };

/** One authorization server and one client of it, for as long as getting tokens takes. */
export class Issuer {
  constructor(
    private readonly definition: OAuth2,
    private readonly host: AuthHost,
  ) {}

  /** By refresh token where there is one that serves, else by the grant itself, once. */
  async tokens(known: string | undefined): Promise<TokensOutcome> {
    const { definition, host } = this;
    const kind = grants[definition.grant];
    try {
      return await host.tokens.withLock(this.keptName(), async (kept) => {
        const context = await this.context();
        const scope = this.optional('scope');
        const refresh = kept.read() ?? known;
        if (refresh !== undefined) {
          host.mark('refresh_token', refresh);
          const { oauth, server, client, clientAuth, options } = context;
          const response = await oauth.refreshTokenGrantRequest(server, client, clientAuth, refresh, options);
          if (response.ok) return { tokens: await this.received(response, context, kept.write, refresh), scope };
          kept.write(undefined);
        }
        if (kind.needsPerson && !host.help.isPresent) return { problem: signInNeeded() };
        const outcome = await kind.request(context);
        if ('problem' in outcome) return outcome;
        return { tokens: await this.received(outcome.response, context, kept.write), scope };
      });
    } catch (error) {
      return { problem: problemOf(error) };
    }
  }

  /** Refresh tokens are kept by who they are for; nothing of it can be read off the name. */
  private keptName(): string {
    return [this.text('token-url'), this.text('client-id'), this.optional('scope') ?? ''].join('\n');
  }

  private async received(
    response: Response,
    { oauth, server, client }: GrantContext,
    keep: (refreshToken: string | undefined) => void,
    before?: string,
  ): Promise<Tokens> {
    const given = await oauth.processGenericTokenEndpointResponse(server, client, response, TYPES);
    const refreshToken = given.refresh_token ?? before;
    // What the file or a person gave for once is kept for the next run, and so is what the server has put in its place.
    const { grant } = this.definition;
    const outlives = grants[grant].needsPerson || grant === 'refresh-token';
    if (outlives && refreshToken !== undefined) keep(refreshToken);
    return {
      accessToken: given.access_token,
      refreshToken,
      expiresIn: given.expires_in,
      scope: given.scope,
    };
  }

  private async context(): Promise<GrantContext> {
    const { definition, host } = this;
    const oauth = oauth4webapi();
    const issuer = this.optional('issuer') ?? new URL(this.text('token-url')).origin;
    const authorizeUrl = this.optional('authorize-url');
    const deviceUrl = this.optional('device-url');
    const server: OAuth.AuthorizationServer = {
      issuer,
      token_endpoint: this.text('token-url'),
      ...(authorizeUrl === undefined ? {} : { authorization_endpoint: authorizeUrl }),
      ...(deviceUrl === undefined ? {} : { device_authorization_endpoint: deviceUrl }),
    };
    const client: OAuth.Client = { client_id: this.optional('client-id') ?? NOBODY };
    const options: OAuth.TokenEndpointRequestOptions = {
      [oauth.customFetch]: ((url: string, init: FetchInit) => fetched(url, init, host)) as never,
      // Plain http was warned of before; on the loopback address it is as it should be.
      [oauth.allowInsecureRequests]: true,
    };
    const scope = this.optional('scope');
    return {
      oauth,
      server,
      client,
      clientAuth: await this.clientAuth(oauth),
      options,
      definition,
      host,
      text: (key) => this.text(key),
      parameters: { ...(scope === undefined ? {} : { scope }), ...this.further() },
    };
  }

  private async clientAuth(oauth: typeof OAuth): Promise<OAuth.ClientAuth> {
    const { definition } = this;
    const secret = this.optional('client-secret');
    if (secret !== undefined) this.host.mark('client_secret', secret);
    // An assertion may say who asks, and then no client does (RFC 7521 section 4.1).
    if (!definition['client-id']) return () => {};
    switch (definition['client-auth']) {
      case 'private-key-jwt': {
        const kid = this.optional('key-id');
        const key = await signingKey(this.text('key'));
        return oauth.PrivateKeyJwt(kid === undefined ? key : { key, kid });
      }
      case 'post':
        return oauth.ClientSecretPost(secret ?? '');
      case 'basic':
      case undefined:
        return secret === undefined ? oauth.None() : oauth.ClientSecretBasic(secret);
    }
  }

  private further(): Record<string, string> {
    const entries = this.definition.parameters ?? [];
    return Object.fromEntries(
      entries.flatMap(({ name, value }) =>
        parameterValues(value, this.host.resolver).map((each): [string, string] => [name, String(textOf(each))]),
      ),
    );
  }

  private text(key: TextKey): string {
    return this.optional(key) ?? '';
  }

  private optional(key: TextKey): string | undefined {
    const template = this.definition[key];
    return template && fillText(template, this.host.resolver);
  }
}

type FetchInit = Readonly<{ method: string; headers: Record<string, string>; body?: URLSearchParams | string }>;

/** Thrown through the package when there was no response at all. */
class NoResponse extends Error {
  constructor(readonly problem: AuthProblem) {
    super(problem.message);
  }
}

/** The package's fetch over our own transport, so that token requests are recorded and masked as all others. */
async function fetched(url: string, { method, headers, body }: FetchInit, host: AuthHost): Promise<Response> {
  const content = body === undefined ? {} : { body: String(body) };
  const pairs = Object.entries(headers).map(([name, value]): [string, string] => [titled(name), value]);
  const { response, broken } = await host.send({ method, url, headers: pairs, ...content });
  if (broken) throw new NoResponse({ code: broken.code, message: `The token endpoint ${url}: ${broken.message}` });
  return asFetchResponse(response, host);
}

function titled(name: string): string {
  return name.replace(/(^|-)[a-z]/g, (start) => start.toUpperCase());
}

function asFetchResponse({ status, body, headers }: HttpResponse, host: AuthHost): Response {
  const text = new TextDecoder().decode(body);
  let content = text;
  let saysWhy = false;
  try {
    const fields = JSON.parse(text) as Record<string, unknown>;
    for (const name of SECRET_FIELDS) if (typeof fields[name] === 'string') host.mark(name, fields[name]);
    // Who the person is concerns no call, so the identity token is not examined.
    delete fields['id_token'];
    saysWhy = 'error' in fields;
    content = JSON.stringify(fields);
  } catch {
    // What is no JSON the package refuses, in words that say so.
  }
  // The body says more than a challenge does, which the package would look at alone.
  const passedOver = saysWhy
    ? /^content-(encoding|length)$|^transfer-encoding$|^www-authenticate$/i
    : /^content-(encoding|length)$|^transfer-encoding$/i;
  const fields = headers.filter(([name]) => !passedOver.test(name));
  return new Response(status === 204 || status === 304 ? null : content, {
    status,
    headers: fields.map(([name, value]): [string, string] => [name, value]),
  });
}

function signInNeeded(): AuthProblem {
  return {
    code: 'sign-in-needed',
    message: 'A person has to sign in, and there is no terminal',
    advice: 'Sign in once with batharon sign-in; later runs use the refresh token.',
  };
}

function problemOf(error: unknown): AuthProblem {
  if (error instanceof NoResponse) return error.problem;
  const {
    error: code,
    error_description: words,
    status,
    message,
    cause,
  } = error as {
    error?: string;
    error_description?: string;
    status?: number;
    message: string;
    cause?: unknown;
  };
  if (code !== undefined) {
    const detail = words === undefined ? '' : `: ${words}`;
    return {
      code: 'not-authorized',
      message: `The token endpoint answered with ${status ?? 400} ${code}${detail}`,
      ...adviceFor(code),
    };
  }
  const answered = cause instanceof Response ? ` (status ${cause.status})` : '';
  return {
    code: 'not-authorized',
    message: `No token: ${message}${answered}`,
    advice: 'To see its response: batharon look',
  };
}

/** RFC 6749 section 5.2. */
function adviceFor(code: string): { advice?: string } {
  const advices: Readonly<Record<string, string>> = {
    invalid_client: 'Check the client id and its secret. Some servers require client-auth: post.',
    invalid_scope: 'Request scopes that the client may have, under scope.',
    unauthorized_client: 'The client may not use this grant.',
    unsupported_grant_type: 'The server does not support this grant.',
    invalid_grant: 'The code or token is used up, expired, or was issued to another client.',
  };
  return advices[code] === undefined ? {} : { advice: advices[code] };
}

/** A private key for signing assertions (RFC 7523), in the form that the package takes. */
async function signingKey(text: string): Promise<OAuth.CryptoKey> {
  const key = privateKeyOf(text);
  if (!key)
    throw new NoResponse({
      code: 'key-not-readable',
      message: 'The key cannot be read as a private key',
      advice: 'Write it in PEM, or as a JSON Web Key.',
    });
  const { subtle } = globalThis.crypto;
  const algorithms: Readonly<Record<string, { name: string; hash?: string; namedCurve?: string }>> = {
    rsa: { name: 'RSASSA-PKCS1-v1_5', hash: 'SHA-256' },
    'rsa-pss': { name: 'RSA-PSS', hash: 'SHA-256' },
    ec: { name: 'ECDSA', namedCurve: 'P-256' },
    ed25519: { name: 'Ed25519' },
  };
  const algorithm = algorithms[key.asymmetricKeyType ?? ''] ?? algorithms['rsa']!;
  return subtle.importKey('pkcs8', key.export({ type: 'pkcs8', format: 'der' }), algorithm, false, ['sign']);
}
