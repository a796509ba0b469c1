import { useCounting } from '../support/counting.ts';
import type { Folder } from '../support/program.ts';

const { counting, projectWith } = useCounting();

const PROJECT = (url: string) => `apis:
  a:
    headers: { X-Of: project }
    deployments:
      one: { url: "${url}/one", settings: { quay: N, depth: 4, doors: [1] } }
      two: { url: "${url}/two", settings: { quay: S, depth: 5, doors: [2] } }
    default-deployment: one
`;

function folderOf(local?: string): Folder {
  const call = '  - call: look\n    request: POST /{setting.quay}/{setting.depth + 1}/{setting.doors[0]}\n';
  const folder = projectWith(`steps:\n${call}`);
  folder.write('batharon.yaml', PROJECT(counting.url));
  if (local !== undefined) folder.write('batharon.local.yaml', local);
  return folder;
}

const run = (folder: Folder, ...args: readonly string[]) => folder.run(['run', 'c.chain.yaml', ...args]);

test.each([
  ['', [], '/one/N/5/1', ''],
  ['apis: { a: { default-deployment: two } }', [], '/two/S/6/2', 'with batharon.local.yaml'],
  ['apis: { a: { deployments: { one: { settings: { quay: E } } } } }', [], '/one/E/5/1', 'with batharon.local.yaml'],
  [
    'apis: { a: { deployments: { mine: { url: "URL/mine", settings: { quay: W, depth: 1, doors: [9] } } } } }',
    ['--at', 'mine'],
    '/mine/W/2/9',
    '',
  ],
  ['', ['--setting', 'quay=X', '--setting', 'a.depth=7'], '/one/X/8/1', 'with batharon.local.yaml, quay=X, a.depth=7'],
  ['', ['--setting', 'doors=[3,4]', '--at', 'two'], '/two/S/6/3', 'doors=[3,4]'],
])('%s %j', async (local, args, path, said) => {
  const folder = folderOf(local.replace('URL', counting.url));
  const { status, out } = await run(folder, ...args);
  expect([status, counting.posts]).toEqual([0, [path]]);
  expect(out.split('\n')[0]).toContain(said);
});

test('a run that goes on keeps the settings that were said', async () => {
  const folder = folderOf();
  counting.status = 500;
  expect((await run(folder, '--setting', 'quay=X')).status).toBe(1);
  counting.status = 200;
  expect((await folder.run(['resume'])).status).toBe(0);
  expect((await folder.run(['rehearse', 'c.chain.yaml'])).status).toBe(0);
  expect(counting.posts).toEqual(['/one/X/5/1', '/one/X/5/1']);
  expect((await folder.run(['preview', 'c.chain.yaml', '--setting', 'quay=Y'])).out).toContain('/one/Y/5/1');
});

test.each([
  ['--setting', 'quey=1', 'No API has the setting "quey"\n  Did you mean "quay"?'],
  ['--setting', 'b.quay=1', 'The project has no API "b"'],
  ['--setting', 'quay', '--setting needs NAME=VALUE or API.NAME=VALUE, not "quay"'],
  ['--setting', 'depth=deep', 'The setting depth is a number, not "deep"'],
  ['--setting', 'doors=1', 'The setting doors is an array, not "1"'],
])('%s %s is refused', async (option, value, message) => {
  const { status, all } = await run(folderOf(), option, value);
  expect([status, all]).toEqual([2, expect.stringContaining(message)]);
});

test.each([
  ['apis: { b: {} }', 'unknown-api: The project has no API "b"'],
  ['apis: { a: { url: http://127.0.0.1:1 } }', 'keys-clash: The API has deployments, and url belongs to one of them'],
  ['apis: { a: { deployments: { on: {} } } }', 'key-missing: The new deployment "on" has no url'],
  ['apis: { a: { default-deployment: on } }', 'unknown-deployment: The API has no deployment "on"'],
  ['apis: { a: { rate-limits: 1/s } }', 'unknown-key'],
  ['apis: [', 'not-yaml'],
])('%s is told where it stands', async (local, message) => {
  const { status, all } = await folderOf(local).run(['check']);
  expect([status, all]).toEqual([2, expect.stringContaining(message)]);
  expect(all).toContain('batharon.local.yaml:1:');
});
