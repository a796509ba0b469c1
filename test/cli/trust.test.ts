import { createServer, type Server } from 'node:http';
import { networkInterfaces } from 'node:os';
import { testWith } from '../support/needs.ts';
import { inTerminal, useFolders } from '../support/program.ts';

const folderWith = useFolders();
let server: Server;
let origin: string;
let requests = 0;

// An address of this machine that is not the loopback one, if it has any; else nothing answers, which is as good.
const outside = Object.values(networkInterfaces())
  .flat()
  .find((each) => each?.family === 'IPv4' && !each.internal)?.address;

beforeAll(async () => {
  server = createServer((_request, response) => {
    requests++;
    response.setHeader('Content-Type', 'application/json').end('{}');
  });
  await new Promise<void>((resolve) => server.listen(0, '0.0.0.0', resolve));
  const { port } = server.address() as { port: number };
  origin = `http://${outside ?? '192.0.2.1'}:${port}`;
});
afterAll(() => void server.close());
beforeEach(() => (requests = 0));

const project = () =>
  folderWith({
    'batharon.yaml': `apis:\n  far:\n    url: ${origin}\n    timeout: 3s\n    auth: { bearer: '{secret.TOKEN}' }\n`,
    'secrets.env': 'TOKEN=tok-en-12345678\n',
    'a.chain.yaml': 'steps:\n  - call: a\n    request: GET /x\n',
  });

test('without a terminal it is said where secrets go for the first time', async () => {
  const place = project();
  const { err } = await place.run(['run', 'a.chain.yaml']);
  expect(err).toContain(`TOKEN is sent to ${origin}`);
  if (outside) expect(requests).toBe(1);
});

test.each([
  [['--trusted-only'], {}],
  [[], { BATHARON_TRUSTED_ONLY: '1' }],
])('with %j %j nothing is sent to where nobody has agreed', async (more, env) => {
  const place = project();
  const { err, status } = await place.run(['run', 'a.chain.yaml', ...more], { env });
  expect(err).toContain('error not-trusted');
  expect(err).toContain(`TOKEN is sent to ${origin}`);
  expect([status, requests]).toEqual([2, 0]);
  expect((await place.run(['runs'])).out).toContain('No runs are recorded');
});

testWith(['script'], 'a person is asked once, and again when there is more', async () => {
  const place = project();
  const refused = await inTerminal(place, ['run', 'a.chain.yaml'], [['as it should be?', 'n']]);
  expect(refused).toContain('not-trusted');
  expect(requests).toBe(0);
  const agreed = await inTerminal(place, ['run', 'a.chain.yaml'], [['as it should be?', 'y']]);
  expect(agreed).toContain(`TOKEN is sent to ${origin}`);
  const again = await inTerminal(place, ['run', 'a.chain.yaml'], []);
  expect(again).not.toContain('New in this project');
  place.write('batharon.yaml', `secrets: { OTHER: [far] }\n${place.read('batharon.yaml')}`);
  const more = await inTerminal(place, ['run', 'a.chain.yaml'], [['as it should be?', 'n']]);
  expect(more).toContain(`OTHER is sent to ${origin}`);
  expect(more).not.toContain('TOKEN is sent');
});

test('what stays on this machine is nobody else’s business', async () => {
  const place = project();
  place.write(
    'batharon.yaml',
    place.read('batharon.yaml').replace(/url: .*/, `url: http://127.0.0.1:${origin.split(':').at(-1)}`),
  );
  const { err, status } = await place.run(['run', 'a.chain.yaml', '--trusted-only']);
  expect([status, err]).toEqual([0, expect.not.stringContaining('New')]);
});

test.each(['http://127.0.0.1:1@192.0.2.1:9', 'http://localhost.harbour.example', 'http://localhost{setting.port}'])(
  '%s only looks like this machine, and has to be agreed to',
  async (url) => {
    const place = project();
    const text = place.read('batharon.yaml').replace(/url: .*/, `url: '${url}'`);
    place.write('batharon.yaml', `${text}    settings: { port: ':1@192.0.2.1' }\n`);
    const { err, status } = await place.run(['run', 'a.chain.yaml', '--trusted-only']);
    expect([status, err]).toEqual([2, expect.stringContaining('error not-trusted')]);
  },
);
