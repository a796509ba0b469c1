import { Router } from 'express';
import { FIRST_DAY, randomFrom } from './data.ts';

type Tide = Readonly<{ at: number; height: string; kind: 'high' | 'low' }>;

/** Seconds between high water and the low water after it. */
const HALF_TIDE = 22_357;

/** The tides of a day, times in seconds since 1970. */
function tidesOf(day: string, seed: number): readonly Tide[] {
  const start = Date.parse(day) / 1000;
  const random = randomFrom(seed + start);
  const first = start + 3600 + Math.floor(random() * 7200);
  return [0, 1, 2, 3].map((i): Tide => {
    const isHigh = i % 2 === 0;
    const height = (isHigh ? 1.6 : 0.2) + random() * 0.6;
    return { at: first + i * HALF_TIDE, height: height.toFixed(2), kind: isHigh ? 'high' : 'low' };
  });
}

/** Tide tables: XML, unless JSON is asked for. */
export function tideRoutes(seed: number): Router {
  const routes = Router();
  routes.get('/tides', (request, response) => {
    const { day = FIRST_DAY } = request.query as { day?: string };
    const tides = tidesOf(day, seed);
    if (request.accepts(['xml', 'json']) === 'json') {
      response.json({ port: 'Kvitnes', day, tides });
      return;
    }
    const lines = tides.map(
      ({ at, height, kind }) => `  <tide kind="${kind}" at="${at}"><t:height unit="m">${height}</t:height></tide>`,
    );
    response
      .type('application/xml')
      .send(
        `<?xml version="1.0" encoding="UTF-8"?>\n<tides xmlns:t="urn:kvitnes:tides" port="Kvitnes" day="${day}">\n${lines.join('\n')}\n</tides>\n`,
      );
  });
  return routes;
}
