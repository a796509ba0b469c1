import { createHash, randomBytes } from 'node:crypto';
import { Router, type Request, type Response } from 'express';
import type { Port } from './data.ts';
import { OFFICE } from './office.ts';
import { problem } from './problems.ts';

const REALM = 'register@kvitnes';
/** A nonce is good for so many requests, and stale then. */
const MAX_USES = 5;

/** The register of owners, behind digest access authentication (RFC 7616). */
export function registerRoutes(port: Port): Router {
  const routes = Router();
  const nonces = new Map<string, number>();
  const hash = (text: string) => createHash('sha256').update(text).digest('hex');
  const ask = (response: Response, stale: boolean): void => {
    const nonce = randomBytes(16).toString('hex');
    nonces.set(nonce, 0);
    response.set(
      'WWW-Authenticate',
      `Digest realm="${REALM}", qop="auth", algorithm=SHA-256, nonce="${nonce}"${stale ? ', stale=true' : ''}`,
    );
    problem(
      response,
      401,
      'Unauthorized',
      stale ? 'The nonce was used already.' : 'The register requires digest authentication.',
    );
  };
  const isRight = (request: Request, given: Readonly<Record<string, string>>): boolean => {
    const { username, nonce, nc, cnonce, response, uri } = given;
    if (uri !== request.originalUrl || parseInt(nc ?? '', 16) !== nonces.get(nonce ?? '')! + 1) return false;
    const secret = hash(`${username}:${REALM}:${OFFICE.password}`);
    const wanted = hash(`${secret}:${nonce}:${nc}:${cnonce}:auth:${hash(`${request.method}:${uri}`)}`);
    return username === OFFICE.user && response === wanted;
  };
  routes.use((request, response, next) => {
    const header = request.get('authorization') ?? '';
    const pairs = [...header.matchAll(/(\w+)=(?:"([^"]*)"|([^\s,]+))/g)];
    const given = Object.fromEntries(pairs.map(([, name, quoted, plain]) => [name!, quoted ?? plain!]));
    const uses = nonces.get(given['nonce'] ?? '');
    if (!header.startsWith('Digest ') || uses === undefined) return ask(response, false);
    if (uses >= MAX_USES) return ask(response, true);
    if (!isRight(request, given)) return ask(response, false);
    nonces.set(given['nonce']!, uses + 1);
    next();
  });
  routes.get('/owners', (_request, response) => {
    response.json({ owners: port.vessels.map(({ id, master }) => ({ vessel: id, owner: `${master} & sons` })) });
  });
  return routes;
}
