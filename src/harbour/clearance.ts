import { json, Router } from 'express';
import type { Port } from './data.ts';
import { jsonOnly } from './guards.ts';
import { problem } from './problems.ts';

/** Milliseconds that a job is queued, and that it is inspected then. */
const QUEUED_MS = 500;
const INSPECTED_MS = 900;
/** Metres of water in the approach: who needs more is refused. */
const APPROACH = 8.35;

type Job = Readonly<{ id: string; vessel: string; draught: number; begun: number }>;

/** Clearance of vessels: asked for, and settled some time later. Asking again with the same key asks once (draft Idempotency-Key). */
export function clearanceRoutes(port: Port): Router {
  const routes = Router();
  const jobs = new Map<string, Job>();
  const byKey = new Map<string, Job>();
  routes.post('/vessels/:id/clearance', jsonOnly, json(), (request, response) => {
    const vessel = port.vessels.find(({ id }) => id === request.params['id']);
    if (!vessel) return problem(response, 404, 'Not Found', `There is no vessel "${request.params['id']}".`);
    const { master, draught } = request.body as { master?: unknown; draught?: unknown };
    const errors = [
      ...(typeof master === 'string' ? [] : [{ pointer: '/master', expected: 'text' }]),
      ...(typeof draught === 'number' ? [] : [{ pointer: '/draught', expected: 'number' }]),
    ];
    if (errors.length > 0)
      return problem(response, 422, 'Unprocessable Content', 'The clearance is incomplete.', { errors });
    const key = request.get('idempotency-key');
    const before = key === undefined ? undefined : byKey.get(key);
    const id = `J-${884 + jobs.size}`;
    const job = before ?? { id, vessel: vessel.id, draught: draught as number, begun: Date.now() };
    jobs.set(job.id, job);
    if (key !== undefined) byKey.set(key, job);
    response
      .status(202)
      .location(`/v1/jobs/${job.id}`)
      .set('Retry-After', '1')
      .json({ job: shown(job) });
  });
  routes.get('/jobs/:id', (request, response) => {
    const job = jobs.get(request.params.id);
    if (!job) return problem(response, 404, 'Not Found', `There is no job "${request.params.id}".`);
    const now = shown(job);
    if (now.state === 'queued') response.set('Retry-After', '1');
    response.json(now);
  });
  routes.post('/days/:day/close', (request, response) => {
    if (!/^\d{4}-\d\d-\d\d$/.test(request.params.day))
      return problem(response, 422, 'Unprocessable Content', `"${request.params.day}" is not a day.`);
    response.status(204).end();
  });
  return routes;
}

/** A job as it is by now. */
function shown({ id, vessel, draught, begun }: Job) {
  const passed = Date.now() - begun;
  const common = { id, vessel };
  if (passed < QUEUED_MS) return { ...common, state: 'queued', percent: 0 };
  const percent = Math.min(99, Math.round(((passed - QUEUED_MS) / INSPECTED_MS) * 100));
  if (passed < QUEUED_MS + INSPECTED_MS) return { ...common, state: 'inspecting', percent };
  if (draught > APPROACH)
    return { ...common, state: 'refused', percent: 100, reason: `The approach has ${APPROACH} m of water.` };
  return { ...common, state: 'cleared', percent: 100, certificate: `C-${id.slice(2)}` };
}
