import { createServer, type IncomingMessage, type Server } from 'node:http';
import { projectFile, SECRETS, TOKEN, useHarbour } from '../support/harbour.ts';
import { useFolders } from '../support/program.ts';

const harbour = useHarbour();
const folderWith = useFolders();

/** Two servers that keep what they get: the api's own, which redirects, and another origin. */
const got: { own: IncomingMessage[]; other: IncomingMessage[] } = { own: [], other: [] };
const servers: Server[] = [];
const ports: number[] = [];

beforeAll(async () => {
  const open = async (listener: Parameters<typeof createServer>[1]) => {
    const server = createServer(listener);
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    servers.push(server);
    ports.push((server.address() as { port: number }).port);
  };
  await open((request, response) => {
    got.other.push(request);
    response.setHeader('Content-Type', 'application/json').end('{"at": "other"}');
  });
  await open((request, response) => {
    got.own.push(request);
    const [, status, where] = /^\/v1\/(\d+)\/(\w+)/.exec(request.url!) ?? [];
    if (status === undefined)
      return void response.setHeader('Content-Type', 'application/json').end(`{"method": "${request.method}"}`);
    const location = where === 'other' ? `http://127.0.0.1:${ports[0]}/landing` : '/v1/landing';
    response.writeHead(Number(status), { Location: location }).end();
  });
});
afterAll(() => servers.forEach((server) => (server.closeAllConnections(), server.close())));
beforeEach(() => void ((got.own = []), (got.other = [])));

const project = () =>
  folderWith({
    'batharon.yaml': `apis:\n  own:\n    url: http://127.0.0.1:${ports[1]}/v1\n    auth: { bearer: "{secret.HARBOUR_TOKEN}" }\n    headers: { X-Quay: N }\n`,
    'secrets.env': SECRETS,
  });

test('a redirect at the own origin keeps credentials; each hop is recorded', async () => {
  const place = project();
  const { out, status } = await place.run(['send', 'GET', '/302/here']);
  expect([status, JSON.parse(out)]).toEqual([0, { method: 'GET' }]);
  expect(got.own.map(({ headers }) => headers.authorization)).toEqual([`Bearer ${TOKEN}`, `Bearer ${TOKEN}`]);
  expect(
    place
      .journals()[0]!
      .filter(({ type }) => type === 'sent')
      .map(({ hop }) => hop),
  ).toEqual([0, 1]);
});

test('another origin gets neither credentials nor headers of the api', async () => {
  const { status } = await project().run(['send', 'GET', '/302/other', '--header', 'X-Own: yes']);
  expect(status).toBe(0);
  const [landed] = got.other;
  expect(landed!.headers).not.toHaveProperty('authorization');
  expect(landed!.headers).not.toHaveProperty('x-quay');
  expect(landed!.headers).toHaveProperty('x-own', 'yes');
});

test('a change is not taken to another origin', async () => {
  const { status, err } = await project().run(['send', 'POST', '/307/other', '--json', '{"a": 1}']);
  expect([status, err]).toEqual([1, expect.stringContaining('redirect-refused')]);
  expect(got.other).toEqual([]);
});

test('a POST that is seen elsewhere becomes a GET without its body', async () => {
  const { out } = await project().run(['send', 'POST', '/303/here', '--json', '{"a": 1}']);
  expect(JSON.parse(out)).toEqual({ method: 'GET' });
  expect(got.own[1]!.headers).not.toHaveProperty('content-type');
});

test('redirects: stop makes the 3xx the response, which then is expected', async () => {
  const place = project();
  place.write(
    'a.chain.yaml',
    'steps:\n  - call: a\n    request: GET /302/here\n    redirects: stop\n    expect: [headers.location == "/v1/landing"]\n',
  );
  expect((await place.run(['run', 'a.chain.yaml'])).out).toContain('passed   1 call, 2 expectations; ');
  expect(got.own).toHaveLength(1);
});

test('the harbour leads to its deepest berth', async () => {
  const place = folderWith({ 'batharon.yaml': projectFile(harbour()), 'secrets.env': SECRETS });
  place.write(
    'a.chain.yaml',
    "api: harbour\nsteps:\n  - call: deepest\n    request: GET /berths/deepest\n    expect: ['ends_with(url, $.id)']\n",
  );
  expect((await place.run(['run', 'a.chain.yaml'])).out).toContain('1 call, 2 expectations; 2 requests in');
});
