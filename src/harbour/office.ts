import { createHash, randomUUID } from 'node:crypto';
import { json, Router, urlencoded, type Express } from 'express';
import { problem } from './problems.ts';

/** Who may ask for tokens, how long one is good, and who may sign in at the gate. All made up. */
export const OFFICE = {
  client: 'north-desk',
  secret: 'brass-lantern-19c4',
  life: 120,
  user: 'pilot',
  password: 'fog-horn-77',
};

/** The harbour office: an OAuth 2.0 token endpoint (RFC 6749 section 4.4), and what its tokens let in to. */
export function officeRoutes(): Router {
  const routes = Router();
  const tokens = new Map<string, number>();
  routes.post('/token', urlencoded({ extended: false }), (request, response) => {
    const body = request.body as Record<string, string>;
    const [client, secret] = credentialsOf(request.get('authorization')) ?? [body['client_id'], body['client_secret']];
    if (client !== OFFICE.client || secret !== OFFICE.secret) {
      response.set('WWW-Authenticate', 'Basic realm="office"').status(401);
      response.json({ error: 'invalid_client', error_description: 'The office does not know this client.' });
      return;
    }
    if (body['grant_type'] !== 'client_credentials') {
      response.status(400).json({ error: 'unsupported_grant_type' });
      return;
    }
    const token = createHash('sha256').update(randomUUID()).digest('base64url');
    tokens.set(token, Date.now() + OFFICE.life * 1000);
    response.set('Cache-Control', 'no-store');
    const { scope = 'papers' } = body;
    response.json({ access_token: token, token_type: 'Bearer', expires_in: OFFICE.life, scope });
  });
  routes.get('/dues', (request, response) => {
    const token = /^Bearer (.+)$/.exec(request.get('authorization') ?? '')?.[1];
    if (token === undefined || (tokens.get(token) ?? 0) < Date.now()) {
      response.set('WWW-Authenticate', 'Bearer realm="office", error="invalid_token"');
      problem(response, 401, 'Unauthorized', 'The token is unknown, or it has expired.');
      return;
    }
    response.json({
      currency: 'EUR',
      dues: [
        { vessel: 'KM 204/5', amount: 1240.5 },
        { vessel: 'SV 113/2', amount: 310.1 },
      ],
    });
  });
  return routes;
}

function credentialsOf(header: string | undefined): readonly string[] | undefined {
  const encoded = /^Basic (.+)$/.exec(header ?? '')?.[1];
  if (encoded === undefined) return undefined;
  return Buffer.from(encoded, 'base64')
    .toString()
    .split(':')
    .map((part) => decodeURIComponent(part.replaceAll('+', ' ')));
}

/** The gate: a session in a cookie for who signs in, and its log. */
export function gateRoutes(): Router {
  const routes = Router();
  const sessions = new Set<string>();
  routes.post('/session', json(), (request, response) => {
    const { user, password } = request.body as { user?: string; password?: string };
    if (user !== OFFICE.user || password !== OFFICE.password)
      return problem(response, 401, 'Unauthorized', 'The gate does not know this name and password.');
    const id = randomUUID();
    sessions.add(id);
    response.cookie('gate', id, { httpOnly: true, path: '/gate' }).status(201).json({ session: id, user });
  });
  routes.get('/log', (request, response) => {
    const cookie = /(?:^|; )gate=([^;]*)/.exec(request.get('cookie') ?? '')?.[1];
    const session = cookie ?? request.get('gate-session');
    if (session === undefined || !sessions.has(session))
      return problem(response, 401, 'Unauthorized', 'Sign in at /gate/session first.');
    response.json({
      entries: [
        { at: '06:10', what: 'pilot boat out' },
        { at: '07:45', what: 'KM 204/5 in' },
      ],
    });
  });
  return routes;
}

/** The water level as it changes: a stream of events (WHATWG HTML section 9.2). */
export function eventRoutes(app: Express): void {
  app.get('/watch/events', (_request, response) => {
    response.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store' });
    let number = 0;
    const timer = setInterval(() => {
      number++;
      response.write(`id: ${number}\nevent: level\ndata: ${JSON.stringify({ level_cm: 140 + number * 2 })}\n\n`);
      if (number === 20) response.end();
    }, 20);
    response.on('close', () => clearInterval(timer));
  });
}
