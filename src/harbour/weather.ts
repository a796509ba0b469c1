import { Router } from 'express';
import { randomFrom } from './data.ts';
import { problem } from './problems.ts';

/** The weather at the pier: a station that often fails, and one that takes its time. */
export function weatherRoutes(seed: number): Router {
  const routes = Router();
  const random = randomFrom(seed);
  let asked = 0;
  routes.get('/weather/flaky', (_request, response) => {
    // Of every three requests the first two fail.
    if (asked++ % 3 < 2) return problem(response, 503, 'Service Unavailable', 'The station does not respond.');
    response.json({ wind: Math.round(random() * 20), sky: 'overcast' });
  });
  // What it says of the wind is not what the description of the harbour promises.
  routes.get('/weather/pier', (_request, response) => {
    response.json({ wind: 'a light breeze', sky: 'overcast' });
  });
  routes.get('/weather/slow', (request, response) => {
    const milliseconds = Math.min(60_000, Number(request.query['ms'] ?? 1500));
    setTimeout(() => response.json({ wind: 7, sky: 'clear', after: milliseconds }), milliseconds);
  });
  return routes;
}
