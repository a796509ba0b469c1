import { Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import { problem } from './problems.ts';

/** Requests of a window, and its length in milliseconds. */
const LIMIT = 10;
const WINDOW_MS = 2000;

/** The pilots' register, which answers so many requests in a while and no more, and says so in each of the drafts' forms. */
export function limitRoutes(): Router {
  const routes = Router();
  for (const form of ['draft-6', 'draft-7', 'draft-8'] as const) {
    const limited = rateLimit({
      windowMs: WINDOW_MS,
      limit: LIMIT,
      standardHeaders: form,
      legacyHeaders: false,
      validate: false,
      keyGenerator: () => 'everybody',
      handler: (_request, response) =>
        problem(response, 429, 'Too Many Requests', `The limit is ${LIMIT} requests in ${WINDOW_MS / 1000} s.`),
    });
    routes.get(`/${form}/:number`, limited, (request, response) => {
      response.json({ pilot: Number(request.params['number']), on_duty: Number(request.params['number']) % 2 === 0 });
    });
  }
  return routes;
}
