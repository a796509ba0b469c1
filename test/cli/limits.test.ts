import { createServer, type Server } from 'node:http';
import { useFolders } from '../support/program.ts';

const folderWith = useFolders();
let server: Server;
let url: string;

beforeAll(async () => {
  server = createServer((request, response) => {
    const closing = request.url === '/busy';
    response.writeHead(closing ? 429 : 200, closing ? { 'Retry-After': '3600' } : {}).end('{}');
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
});
afterAll(() => void server.close());

test('limits shows what is used and left, and why a limiter is closed; reset opens it', async () => {
  const place = folderWith({
    'batharon.yaml': `apis:\n  harbour: { url: '${url}', rate-limit: [50/s, 1000/day] }\n  office:\n    deployments:\n      live: { url: '${url}', rate-limit: 9/s }\n    default-deployment: live\n`,
  });
  expect((await place.run(['limits'])).out).toContain('Nothing has counted');
  await place.run(['send', 'GET', '/free', '--api', 'harbour']);
  await place.run(['send', 'GET', '/busy', '--api', 'harbour']);
  await place.run(['send', 'GET', '/free', '--api', 'office']);
  const { out } = await place.run(['limits']);
  expect(out).toMatch(/harbour\n +rate +50\/s\n +1000\/day +2 of 1,000 used, 998 left; resets at \S+\n/);
  expect(out).toMatch(
    /closed +until \S+, in (?:1 h|59 min)[^\n]*\n +because +the server answered 429 with Retry-After: 3600 at \S+, in run \S+\n/,
  );
  expect(out).toContain('to open  batharon limits reset harbour\n');
  expect(out).toMatch(/office=live\n +rate +9\/s\n +state +open/);
  const paused = await place.run(['send', 'GET', '/free', '--api', 'harbour']);
  expect(paused.all).toContain('batharon limits');
  expect(await place.run(['limits', 'reset', 'harbor'])).toMatchObject({
    status: 2,
    err: expect.stringContaining('harbour'),
  });
  expect((await place.run(['limits', 'reset', 'harbour'])).out).toContain('Opened harbour');
  expect(await place.run(['send', 'GET', '/free', '--api', 'harbour'])).toMatchObject({ status: 0 });
  const json = JSON.parse((await place.run(['limits', '--as', 'json'])).out) as { name: string; closed?: unknown }[];
  expect(json.map(({ name, closed }) => [name, closed])).toEqual([
    ['harbour@', undefined],
    ['office@live', undefined],
  ]);
});

test('a run, several runs, and batharon alone say what is left of quotas and what is closed', async () => {
  const place = folderWith({
    'batharon.yaml': `apis:\n  harbour: { url: '${url}', rate-limit: 1000/day }\n`,
    'a.chain.yaml': 'steps:\n  - call: a\n    request: GET /free\n',
    'b.chain.yaml': 'steps:\n  - call: b\n    request: GET /free\n',
  });
  const left = (used: number) => `quota    harbour, 1000/day: ${used} of 1,000 used, ${1000 - used} left; resets at `;
  expect((await place.run(['run', 'a.chain.yaml'])).out).toContain(left(1));
  expect((await place.run(['run', 'a.chain.yaml', 'b.chain.yaml'])).out).toContain(left(3));
  expect((await place.run(['run', 'a.chain.yaml', '--quiet'])).out).not.toContain('quota');
  const { out } = await place.run(['run', 'a.chain.yaml', '--out', '-']);
  expect(out).toBe('{}\n');
  await place.run(['send', 'GET', '/busy']);
  const alone = (await place.run([])).out;
  expect(alone).toContain(left(6));
  expect(alone).toMatch(/limit {4}harbour: closed until \S+, in [^\n]+; for the reason: batharon limits\n/);
  const closed = await place.run(['run', 'a.chain.yaml']);
  expect(closed.all).toContain('warning quota-spent: the server closed this rate limit; it starts again at');
});
