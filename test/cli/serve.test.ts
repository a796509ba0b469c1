import { useFolders, type Folder } from '../support/program.ts';
import { serve } from '../support/serving.ts';
import { copyDemoInto, useHarbour } from '../support/harbour.ts';

const harbour = useHarbour();
const folderWith = useFolders();

function demo(): Folder {
  const folder = folderWith();
  copyDemoInto(folder, harbour());
  return folder;
}

const port = (url: string) => new URL(url).port;

test.each(['vessels', 'new-berth', 'berth', 'water', 'harbour-day'])(
  'a run of %s against what serves its record ends as the recorded one, without the server',
  async (name) => {
    const folder = demo();
    const fixed = ['--seed', 'one', '--now', '2026-05-23T06:00:00Z'];
    const run = (out: string) => folder.run(['run', `chains/${name}.chain.yaml`, ...fixed, '--out', out]);
    const first = await run('first.json');
    expect(first.status).toBe(0);
    const serving = await serve(folder);
    const project = folder.read('batharon.yaml');
    folder.write(
      'batharon.yaml',
      project.replaceAll(`127.0.0.1:${port(harbour().url)}`, `127.0.0.1:${port(serving.url)}`),
    );
    const again = await run('again.json');
    const status = await serving.stop();
    expect([again.status, status, serving.out()]).toEqual([0, 0, expect.not.stringContaining('501')]);
    const [before, after] = ['first', 'again'].map((file) => folder.read(`${file}.json`));
    expect(after!.replaceAll(port(serving.url), port(harbour().url))).toBe(before);
  },
);

test('in order, then the last again; what is not in the record is told with the nearest', async () => {
  const folder = demo();
  folder.write(
    'chains/s.chain.yaml',
    `api: harbour
steps:
  - { call: make, request: POST /berths, json: { name: A1, depth: 6, quay: S }, keep: { id: $.id } }
  - { call: one, request: 'GET /berths/{id}' }
  - { call: gone, request: 'DELETE /berths/{id}' }
  - { call: two, request: 'GET /berths/{id}', expect: [status == 404] }
  - { call: query, request: 'GET /vessels?flag=NO' }
`,
  );
  expect((await folder.run(['run', 'chains/s.chain.yaml'])).status).toBe(0);
  const serving = await serve(folder, '--timed');
  const ask = async (method: string, path: string, body?: string) => {
    const headers = { 'Content-Type': 'application/json', Authorization: 'Bearer any-token' };
    const response = await fetch(serving.url + path, { method, headers, ...(body === undefined ? {} : { body }) });
    return [response.status, await response.text()] as const;
  };
  const [made, text] = await ask('POST', '/v1/berths', '{"depth": 6, "quay": "S", "name": "A1"}');
  const { id } = JSON.parse(text) as { id: string };
  expect(made).toBe(201);
  const statuses = [];
  for (let i = 0; i < 3; i++) statuses.push((await ask('GET', `/v1/berths/${id}`))[0]);
  expect(statuses).toEqual([200, 404, 404]);
  const unknown = await Promise.all([
    ask('POST', '/v1/berths', '{"depth": 7, "quay": "S", "name": "A1"}'),
    ask('PUT', `/v1/berths/${id}`),
    ask('GET', '/v1/vessels?flag=DK'),
    ask('GET', '/v1/vessels'),
    ask('GET', '/v1/vessel'),
  ]);
  expect(unknown.map(([status]) => status)).toEqual([501, 501, 501, 501, 501]);
  const [body, method, value, missing, path] = unknown.map(([, answer]) => answer);
  expect(body).toMatch(/nearest is POST \/v1\/berths: in its body \$\.depth/);
  expect(method).toMatch(/nearest is GET .*: its method is GET/);
  expect(value).toContain('the parameter flag is "NO" there');
  expect(missing).toContain('it has the parameter flag as well');
  expect(path).toContain('its path is another');
  expect(await serving.stop()).toBe(1);
  expect(serving.out()).toContain('9 requests, 5 of them not in the record');
});

test.each([
  [['--run', 'nothing'], 'No run "nothing" is recorded here'],
  [['--port', 'x'], '"x" is not a port'],
])('serve %j is refused', async (args, message) => {
  const folder = demo();
  await folder.run(['send', 'GET', '/vessels', '--api', 'harbour']);
  const { status, all } = await folder.run(['serve', ...args]);
  expect([status, all]).toEqual([2, expect.stringContaining(message)]);
});

test('a port that is taken is told', async () => {
  const folder = demo();
  await folder.run(['send', 'GET', '/vessels', '--api', 'harbour']);
  const { status, all } = await folder.run(['serve', '--port', port(harbour().url)]);
  expect([status, all]).toEqual([2, expect.stringContaining('another program is listening there')]);
});
