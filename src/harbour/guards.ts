import { createHash, timingSafeEqual } from 'node:crypto';
import type { RequestHandler } from 'express';
import { problem } from './problems.ts';

/** Lets in who shows the token (RFC 6750); says what is missing otherwise, without saying what is right. */
export function bearerGuard(token: string): RequestHandler {
  return (request, response, next) => {
    const given = /^Bearer (.+)$/.exec(request.get('authorization') ?? '')?.[1];
    if (given !== undefined && same(given, token)) return next();
    response.set('WWW-Authenticate', 'Bearer realm="harbour"');
    problem(
      response,
      401,
      'Unauthorized',
      given === undefined ? 'A bearer token is required.' : 'The token is not valid.',
    );
  };
}

/** Lets in who shows the key in the header `Harbour-Key`. */
export function keyGuard(key: string): RequestHandler {
  return (request, response, next) => {
    const given = request.get('harbour-key');
    if (given !== undefined && same(given, key)) return next();
    problem(
      response,
      401,
      'Unauthorized',
      given === undefined ? 'The header Harbour-Key is required.' : 'The key is not valid.',
    );
  };
}

/** Refuses bodies of another type than JSON (RFC 9110 section 15.5.16). */
export const jsonOnly: RequestHandler = (request, response, next) => {
  if (request.is('application/json')) return next();
  problem(
    response,
    415,
    'Unsupported Media Type',
    `The body must be application/json, not ${request.get('content-type') ?? 'without a type'}.`,
  );
};

function same(left: string, right: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(left), digest(right));
}
