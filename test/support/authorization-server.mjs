// A real authorization server, and an API behind it that lets its tokens in. It prints its URL when it is open.
import { Provider } from 'oidc-provider';
import { importJWK, jwtVerify } from 'jose';
import { createServer } from 'node:http';

const { publicJwk, life = 3600 } = JSON.parse(process.argv[2]);
const counts = { token: 0, api: 0, refused: 0 };
const cancelled = new Set();

const server = createServer();
await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
const url = `http://127.0.0.1:${server.address().port}`;

const grant = (client_id, more) => ({
  client_id,
  client_secret: `${client_id}-"pass%word"+secret`,
  redirect_uris: [],
  response_types: [],
  grant_types: ['client_credentials'],
  scope: 'berths tides',
  ...more,
});
const JWT_BEARER = 'urn:ietf:params:oauth:grant-type:jwt-bearer';
const TOKEN_EXCHANGE = 'urn:ietf:params:oauth:grant-type:token-exchange';

const provider = new Provider(url, {
  clients: [
    grant('desk-basic', { token_endpoint_auth_method: 'client_secret_basic' }),
    grant('desk-post', { token_endpoint_auth_method: 'client_secret_post' }),
    grant('desk-jwt', {
      client_secret: undefined,
      token_endpoint_auth_method: 'private_key_jwt',
      jwks: { keys: [publicJwk] },
    }),
    grant('desk-for-others', { grant_types: [JWT_BEARER, TOKEN_EXCHANGE] }),
    grant('pilot', {
      application_type: 'native',
      client_secret: undefined,
      token_endpoint_auth_method: 'none',
      redirect_uris: ['http://127.0.0.1/'],
      response_types: ['code'],
      grant_types: ['authorization_code', 'refresh_token'],
      scope: 'openid offline_access berths',
    }),
    grant('mast', {
      application_type: 'native',
      client_secret: undefined,
      token_endpoint_auth_method: 'none',
      grant_types: ['urn:ietf:params:oauth:grant-type:device_code', 'refresh_token'],
      scope: 'openid offline_access berths',
    }),
  ],
  scopes: ['openid', 'offline_access', 'berths', 'tides'],
  features: { clientCredentials: { enabled: true }, deviceFlow: { enabled: true } },
  pkce: { required: () => true },
  rotateRefreshToken: true,
  issueRefreshToken: async () => true,
  ttl: { ClientCredentials: life, AccessToken: life },
  clientBasedCORS: () => false,
});

const given = async (ctx, scope, more) => {
  const token = await new provider.ClientCredentials({ client: ctx.oidc.client, scope }).save();
  ctx.body = { access_token: token, expires_in: 600, scope, ...more };
};
const refused = (ctx, error, error_description) =>
  Object.assign(ctx, { status: 400, body: { error, error_description } });

// RFC 7523 section 3: signed by the key of the desk, for this endpoint, not yet ended.
const bearer = async (ctx) => {
  const key = await importJWK(publicJwk);
  const wanted = { audience: `${url}/token`, requiredClaims: ['iss', 'sub', 'exp', 'jti'] };
  const outcome = await jwtVerify(ctx.oidc.params.assertion, key, wanted).catch((error) => error);
  if (outcome instanceof Error) return refused(ctx, 'invalid_grant', outcome.message);
  return given(ctx, `${outcome.payload.sub} ${outcome.protectedHeader.kid}`, { token_type: 'Bearer' });
};
provider.registerGrantType(JWT_BEARER, bearer, ['assertion', 'scope']);

// RFC 8693 section 2: for a token of this server another one.
const exchange = async (ctx) => {
  const { subject_token, subject_token_type, scope } = ctx.oidc.params;
  if (subject_token_type !== 'urn:ietf:params:oauth:token-type:access_token')
    return refused(ctx, 'invalid_request', `no ${subject_token_type} is exchanged here`);
  if (!(await provider.ClientCredentials.find(subject_token)))
    return refused(ctx, 'invalid_request', 'the subject token is not known');
  return given(ctx, scope, { token_type: 'N_A', issued_token_type: subject_token_type });
};
const PARAMETERS = ['subject_token', 'subject_token_type', 'audience', 'scope'];
provider.registerGrantType(TOKEN_EXCHANGE, exchange, PARAMETERS);

const authorized = async (request) => {
  const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
  if (!token || cancelled.has(token)) return undefined;
  return (await provider.ClientCredentials.find(token)) ?? (await provider.AccessToken.find(token));
};

const callback = provider.callback();
server.on('request', async (request, response) => {
  const json = (status, body) =>
    response.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(body));
  if (request.url === '/counts') return json(200, counts);
  if (request.url.startsWith('/api')) {
    counts.api++;
    const token = await authorized(request);
    if (token) {
      // Every token is refused once it has been shown at this address.
      if (request.url === '/api/cancel') cancelled.add(request.headers.authorization.slice(7));
      return json(200, { client: token.clientId, scope: token.scope });
    }
    counts.refused++;
    response.setHeader('WWW-Authenticate', 'Bearer error="invalid_token"');
    return json(401, { detail: 'The token is not valid.' });
  }
  if (request.url === '/token') counts.token++;
  callback(request, response);
});
console.log(url);
