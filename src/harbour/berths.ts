import { json, Router } from 'express';
import type { Berth, Port } from './data.ts';
import { jsonOnly } from './guards.ts';
import { problem } from './problems.ts';

/** Berths: listed, read, created, and given to a vessel. */
export function berthRoutes(port: Port): Router {
  const routes = Router();
  routes.get('/berths', (_request, response) => {
    response.json({ berths: [...port.berths.values()].map(({ version: _version, ...berth }) => berth) });
  });
  routes.get('/berths/deepest', (_request, response) => {
    const [deepest] = [...port.berths.values()].sort((a, b) => b.depth - a.depth);
    response.redirect(302, `./${deepest!.id}`);
  });
  routes.get('/berths/:id', (request, response) => {
    const berth = port.berths.get(request.params.id);
    if (!berth) return problem(response, 404, 'Not Found', `There is no berth "${request.params.id}".`);
    const { version, ...shown } = berth;
    response.set('ETag', `"v${version}"`).json(shown);
  });
  routes.post('/berths', jsonOnly, json(), (request, response) => {
    const errors = berthErrors(request.body);
    const given = request.body as { name: string; depth: number; quay: string };
    if (errors.length > 0)
      return problem(response, 422, 'Unprocessable Content', 'The berth is incomplete.', { errors });
    const id = `${given.quay}${[...port.berths.values()].filter(({ quay }) => quay === given.quay).length + 1}`;
    const berth: Berth = { id, name: given.name, quay: given.quay, depth: given.depth, taken_by: null, version: 1 };
    port.berths.set(id, berth);
    const { version: _version, ...shown } = berth;
    response.status(201).location(`berths/${id}`).json(shown);
  });
  changeRoute(routes, port);
  routes.delete('/berths/:id', (request, response) => {
    if (!port.berths.delete(String(request.params.id)))
      return problem(response, 404, 'Not Found', `There is no berth "${request.params.id}".`);
    response.status(204).end();
  });
  reservationRoute(routes, port);
  return routes;
}

/** A change needs the version that it is made to (RFC 9110 section 13.1.1). */
function changeRoute(routes: Router, port: Port): void {
  routes.put('/berths/:id', jsonOnly, json(), (request, response) => {
    const berth = port.berths.get(String(request.params.id));
    if (!berth) return problem(response, 404, 'Not Found', `There is no berth "${request.params.id}".`);
    const match = request.get('if-match');
    if (match === undefined)
      return problem(response, 428, 'Precondition Required', 'Send If-Match with the ETag of the berth.');
    if (match !== `"v${berth.version}"`)
      return problem(response, 412, 'Precondition Failed', 'The berth has changed meanwhile.');
    const errors = berthErrors({ ...berth, ...(request.body as object) });
    if (errors.length > 0)
      return problem(response, 422, 'Unprocessable Content', 'The berth is incomplete.', { errors });
    const { name = berth.name, depth = berth.depth } = request.body as Partial<Berth>;
    Object.assign(berth, { name, depth, version: berth.version + 1 });
    const { version, ...shown } = berth;
    response.set('ETag', `"v${version}"`).json(shown);
  });
}

function reservationRoute(routes: Router, port: Port): void {
  routes.post('/berths/:id/reservations', jsonOnly, json(), (request, response) => {
    const berth = port.berths.get(String(request.params.id));
    if (!berth) return problem(response, 404, 'Not Found', `There is no berth "${request.params.id}".`);
    const { vessel, draught } = request.body as { vessel?: unknown; draught?: unknown };
    const errors = [
      ...(typeof vessel === 'string' ? [] : [{ pointer: '/vessel', expected: 'text' }]),
      ...(typeof draught === 'number' ? [] : [{ pointer: '/draught', expected: 'number' }]),
    ];
    if (errors.length > 0)
      return problem(response, 422, 'Unprocessable Content', 'The reservation is incomplete.', { errors });
    if (!port.vessels.some(({ id }) => id === vessel))
      return problem(response, 404, 'Not Found', `There is no vessel "${String(vessel)}".`);
    if ((draught as number) > berth.depth) {
      return problem(
        response,
        422,
        'Unprocessable Content',
        `Berth ${berth.id} has ${berth.depth} m of water, and the vessel needs ${String(draught)} m.`,
      );
    }
    berth.taken_by = vessel as string;
    berth.version++;
    response.status(201).json({ reservation: `R-${berth.id}-${berth.version}`, berth: berth.id, vessel, draught });
  });
}

function berthErrors(body: unknown): readonly object[] {
  const { name, depth, quay } = (body ?? {}) as Record<string, unknown>;
  return [
    ...(typeof name === 'string' ? [] : [{ pointer: '/name', expected: 'text' }]),
    ...(typeof depth === 'number' ? [] : [{ pointer: '/depth', expected: 'number' }]),
    ...(typeof quay === 'string' && /^[NSW]$/.test(quay) ? [] : [{ pointer: '/quay', expected: 'N, S or W' }]),
  ];
}
