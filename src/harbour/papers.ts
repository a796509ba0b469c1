import { createHash } from 'node:crypto';
import { raw, Router } from 'express';
import { randomFrom, type Port } from './data.ts';
import { pngOf } from './png.ts';
import { problem } from './problems.ts';

const GOODS = [
  'timber',
  'salt',
  'fish meal',
  'gravel',
  'wheat, in bags',
  'paper "rolls"',
  'cod, frozen',
  'machine parts',
];
const WIDTH = 96;
const HEIGHT = 48;

/** What the harbour keeps on paper: cargo lists (CSV), soundings (PNG), and documents that are handed in. */
export function paperRoutes(port: Port, seed: number): Router {
  const routes = Router();
  routes.get('/cargo', (request, response) => {
    const count = Math.min(5000, Number(request.query['rows'] ?? 12));
    const random = randomFrom(seed);
    const rows = Array.from({ length: count }, (_, i) => {
      const { id } = port.vessels[Math.floor(random() * port.vessels.length)]!;
      const goods = GOODS[Math.floor(random() * GOODS.length)]!;
      const quoted = /[",]/.test(goods) ? `"${goods.replaceAll('"', '""')}"` : goods;
      return `C-${1000 + i},${id},${quoted},${(10 + random() * 400).toFixed(2)}`;
    });
    response.type('text/csv').send(`cargo,vessel,goods,tonnes\n${rows.join('\n')}\n`);
  });
  routes.get('/soundings/:berth', (request, response) => {
    const berth = port.berths.get(request.params.berth);
    if (!berth) return problem(response, 404, 'Not Found', `There is no berth "${request.params.berth}".`);
    const random = randomFrom(seed + berth.id.charCodeAt(0) * 10 + berth.depth);
    // Deeper water is darker; the quay is at the top.
    const shade = (x: number, y: number) =>
      Math.max(0, Math.min(255, 235 - (y / HEIGHT) * berth.depth * 18 + Math.sin(x / 9) * 8 + random() * 6));
    response.type('image/png').send(pngOf(WIDTH, HEIGHT, shade));
  });
  routes.post('/documents', raw({ type: () => true, limit: '2gb' }), (request, response) => {
    const content = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
    const sha256 = createHash('sha256').update(content).digest('hex');
    const id = `D-${sha256.slice(0, 8)}`;
    const type = request.get('content-type') ?? null;
    response.status(201).location(`documents/${id}`).json({ id, type, size: content.length, sha256 });
  });
  return routes;
}
