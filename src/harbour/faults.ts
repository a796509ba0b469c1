import type { RequestHandler } from 'express';
import { randomFrom } from './data.ts';
import { problem } from './problems.ts';

/**
 * Faults on request, by the header `Harbour-Fault`: a kind, how many of 100 requests it hits, and a seed, as in `503 30 7`.
 * Kinds are a status; `cut` (the connection ends before anything is done); `lost` (it ends after all is done, so that the
 * answer is lost); and `slow` (the answer comes a second later). Which requests are hit depends on the seed alone.
 */
export function faults(): RequestHandler {
  const draws = new Map<string, () => number>();
  return (request, response, next) => {
    const asked = request.get('harbour-fault');
    if (asked === undefined) return next();
    const [kind = '', percent = '100', seed = '1'] = asked.trim().split(/\s+/);
    let draw = draws.get(asked);
    if (!draw) draws.set(asked, (draw = randomFrom(Number(seed))));
    if (draw() * 100 >= Number(percent)) return next();
    if (/^[45]\d\d$/.test(kind)) {
      if (kind === '429' || kind === '503') response.set('Retry-After', '1');
      return problem(response, Number(kind), 'Fault', 'The request asked for this fault.');
    }
    if (kind === 'cut') return void request.socket.destroy();
    if (kind === 'slow') return void setTimeout(next, 1000);
    if (kind === 'lost') {
      response.end = (() => {
        request.socket.destroy();
        return response;
      }) as typeof response.end;
    }
    next();
  };
}
