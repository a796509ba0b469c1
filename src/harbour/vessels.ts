import { createHmac } from 'node:crypto';
import { json, Router, type Response } from 'express';
import type { Port } from './data.ts';
import { problem } from './problems.ts';

/** With it the harbour signs what it sends to others. Made up. */
export const NOTICE_KEY = 'mooring-line-6e20';
const DAY = /^\d{4}-\d\d-\d\d$/;

/** Vessels and the arrivals that are expected of them. */
export function vesselRoutes(port: Port): Router {
  const routes = Router();
  routes.get('/vessels', (request, response) => {
    if (!knows(request.query, ['flag'], response)) return;
    const { flag } = request.query;
    response.json({ vessels: port.vessels.filter((vessel) => flag === undefined || vessel.flag === flag) });
  });
  routes.get('/vessels/:id', (request, response) => {
    const vessel = port.vessels.find(({ id }) => id === request.params.id);
    if (vessel) response.json(vessel);
    else problem(response, 404, 'Not Found', `There is no vessel "${request.params.id}".`);
  });
  routes.get('/arrivals', (request, response) => {
    if (!knows(request.query, ['day', 'flag', 'state', 'limit', 'page'], response)) return;
    const { day, flag, state } = request.query;
    if (day !== undefined && !DAY.test(String(day))) {
      problem(response, 422, 'Unprocessable Content', `"${String(day)}" is not a day.`, {
        errors: [{ parameter: 'day', expected: 'YYYY-MM-DD' }],
      });
      return;
    }
    const arrivals = port.arrivals.filter(
      (each) =>
        (day === undefined || each.day === day) &&
        (flag === undefined || each.flag === flag) &&
        (state === undefined || each.state === state),
    );
    const limit = Math.min(100, Math.max(1, Number(request.query['limit'] ?? 100)));
    const page = Math.max(1, Number(request.query['page'] ?? 1));
    const isMore = page * limit < arrivals.length;
    if (isMore) {
      const parameters = new URLSearchParams(request.query as Record<string, string>);
      parameters.set('page', String(page + 1));
      // A reference relative to this one, as many APIs give it (RFC 8288 section 3.1).
      response.set('Link', `<?${parameters.toString()}>; rel="next"`);
    }
    response.json({
      day: day ?? null,
      total: arrivals.length,
      arrivals: arrivals.slice((page - 1) * limit, page * limit),
      next_page: isMore ? page + 1 : null,
    });
  });
  routes.post('/notices', json(), (request, response) => {
    const { vessel, callback } = request.body as { vessel?: string; callback?: string };
    if (typeof callback !== 'string' || !URL.canParse(callback))
      return problem(response, 422, 'Unprocessable Content', 'A notice needs a callback: the URL to call.');
    response.status(202).json({ notice: 'N-1', vessel });
    // Two notices of the same vessel: it is seen first, and moored then.
    for (const [i, state] of ['sighted', 'moored'].entries()) {
      const body = JSON.stringify({ vessel, state });
      const sign = createHmac('sha256', NOTICE_KEY).update(body).digest('hex');
      const headers = { 'Content-Type': 'application/json', 'Harbour-Sign': sign };
      setTimeout(() => void fetch(callback, { method: 'POST', headers, body }).catch(() => {}), 40 * (i + 1));
    }
  });
  return routes;
}

/** Refuses parameters that the harbour does not have: a misspelt one would otherwise go unnoticed. */
function knows(query: object, names: readonly string[], response: Response): boolean {
  const unknown = Object.keys(query).filter((name) => !names.includes(name));
  if (unknown.length === 0) return true;
  problem(
    response,
    422,
    'Unprocessable Content',
    `There is no parameter "${unknown[0]}"; the parameters are ${names.join(', ')}.`,
  );
  return false;
}
