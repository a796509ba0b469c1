import { createServer, type Server } from 'node:http';
import { useFolders } from '../support/program.ts';

const folderWith = useFolders();
let server: Server;
let url: string;

beforeAll(async () => {
  server = createServer((request, response) => response.writeHead(request.url === '/v1/x' ? 404 : 200).end('{}'));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(server.address() as { port: number }).port}/v1`;
});
afterAll(() => void server.close());

test('runs tells what was sent, fits a terminal of 80 columns, and lists a damaged record as that', async () => {
  const place = folderWith({
    'batharon.yaml': `apis:\n  harbour: { url: '${url}' }\n`,
    'a.chain.yaml': 'name: a-chain-with-a-long-name-of-its-own\nsteps:\n  - call: a\n    request: GET /y\n',
  });
  await place.run(['send', 'GET', '/x', '--query', 'day=2026-05-23']);
  await place.run(['send', 'GET', '/x']);
  await place.run(['run', 'a.chain.yaml']);
  place.write('.batharon/runs/lost/journal.ndjson', '{"seq":1,"type":"ru');
  const { out } = await place.run(['runs'], { columns: 80 });
  expect(out).toMatch(/GET \/x +harbour +sent 404 /);
  expect(out).toMatch(/GET \/x\?day=2026-0\S* +harbour +sent 200 |GET \/x\?day=2026-\S* +harbour +sent 200 /);
  expect(out).toMatch(/lost .* damaged /);
  for (const line of out.split('\n')) expect(line.length).toBeLessThanOrEqual(80);
  expect((await place.run(['runs'], { columns: 120 })).out).toMatch(
    /a-chain-with-a-long-n\S+ +harbour +passed .* kB\n/,
  );
  const json = JSON.parse((await place.run(['runs', '--as', 'json'])).out) as { result: string; request?: object }[];
  expect(json.map(({ result, request }) => [result, request])).toContainEqual([
    'sent',
    { method: 'GET', target: '/x', status: 404 },
  ]);
});

test('the runs of one chain are a line of outcomes and durations, the oldest first', async () => {
  const place = folderWith({
    'batharon.yaml': `apis:\n  harbour: { url: '${url}' }\n`,
    'a.chain.yaml': 'name: a\nsteps:\n  - call: a\n    request: GET /y\n',
    'b.chain.yaml': 'name: b\nsteps:\n  - call: b\n    request: GET /y\n',
  });
  await place.run(['run', 'a.chain.yaml']);
  await place.run(['run', 'b.chain.yaml']);
  place.write('a.chain.yaml', 'name: a\nsteps:\n  - call: a\n    request: GET /x\n');
  await place.run(['run', 'a.chain.yaml']);
  const { out } = await place.run(['runs', 'a.chain.yaml']);
  expect(out).toMatch(/^\u2588\u00d7 {3}2 runs: 1 passed, in .* to .*; 1 failed\n\n/);
  expect(out).not.toMatch(/ b +harbour/);
  expect(JSON.parse((await place.run(['runs', 'b.chain.yaml', '--as', 'json'])).out)).toHaveLength(1);
  expect((await place.run(['runs', 'c.chain.yaml'])).out).toContain('No run of c.chain.yaml is recorded here');
});
