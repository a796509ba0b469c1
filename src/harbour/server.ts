import express, { Router, type Express } from 'express';
import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import { berthRoutes } from './berths.ts';
import { clearanceRoutes } from './clearance.ts';
import { createPort } from './data.ts';
import { faults } from './faults.ts';
import { bearerGuard, keyGuard } from './guards.ts';
import { eventRoutes, gateRoutes, officeRoutes } from './office.ts';
import { limitRoutes } from './limits.ts';
import { paperRoutes } from './papers.ts';
import { problem, problemOnError } from './problems.ts';
import { registerRoutes } from './register.ts';
import { tideRoutes } from './tides.ts';
import { vesselRoutes } from './vessels.ts';
import { weatherRoutes } from './weather.ts';

export type HarbourOptions = Readonly<{ seed?: number; port?: number; token: string; key: string }>;

/** A harbour that is open: where, and how to close it. */
export type Harbour = Readonly<{ url: string; port: number; close(): Promise<void> }>;

/** The simulated harbour as an Express application: `/v1` behind a bearer token, `/watch` behind a key. */
function createHarbour({ seed = 7, token, key }: Omit<HarbourOptions, 'port'>): Express {
  const port = createPort(seed);
  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  const v1 = Router();
  v1.use(
    faults(),
    bearerGuard(token),
    clearanceRoutes(port),
    weatherRoutes(seed),
    vesselRoutes(port),
    berthRoutes(port),
    tideRoutes(seed),
    paperRoutes(port, seed),
  );
  app.use('/v1', v1);
  app.use('/office', officeRoutes());
  app.use('/gate', gateRoutes());
  app.use('/pilots', limitRoutes());
  app.use('/register', registerRoutes(port));
  eventRoutes(app);
  app.get('/watch/water', keyGuard(key), (_request, response) => {
    response.json({
      station: 'Kvitnes outer mole',
      level_cm: 142,
      next_high: 1_779_553_320,
      readings: [1.1, 1.25, 1.42],
    });
  });
  app.use((request, response) => problem(response, 404, 'Not Found', `There is nothing at ${request.path}.`));
  app.use(problemOnError);
  return app;
}

/** Opens the harbour on the loopback address; port 0 takes a free one. Rejects when the port is taken. */
export function openHarbour(options: HarbourOptions): Promise<Harbour> {
  const app = createHarbour(options);
  return new Promise((resolve, reject) => {
    const server: Server = app.listen(options.port ?? 0, '127.0.0.1', (error?: Error) => {
      if (error) return reject(error);
      const { port } = server.address() as AddressInfo;
      resolve({ url: `http://127.0.0.1:${port}`, port, close: () => closed(server) });
    });
  });
}

function closed(server: Server): Promise<void> {
  return new Promise((resolve) => {
    server.close(() => resolve());
    server.closeAllConnections();
  });
}
