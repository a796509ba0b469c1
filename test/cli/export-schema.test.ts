import { useCounting } from '../support/counting.ts';

const { counting, projectWith } = useCounting();

test('the schema of recorded responses, of several runs too, is what a chain expects of further ones', async () => {
  const folder = projectWith('steps:\n  - each: n in [1, 2]\n    steps: [{ call: berth, request: "POST /{n}" }]\n');
  const run = async () => (await folder.run(['run', 'c.chain.yaml'])).status;
  expect(await run()).toBe(0);
  expect(await run()).toBe(0);
  const ids = (await folder.run(['runs', '--as', 'json'])).out.match(/\d{4}-\d{4}-\w\w/g)!;
  const both = [...new Set(ids)].flatMap((id) => ['--run', id]);
  const { status, out, err } = await folder.run(['export', 'schema', 'berth', ...both]);
  expect([status, err]).toEqual([0, 'from 4 responses; in a chain: expect: [{ schema: berth.schema.json }]\n']);
  expect(JSON.parse(out)).toEqual({
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'berth',
    type: 'object',
    properties: { id: { type: 'string' }, body: { type: 'string' } },
    required: ['id', 'body'],
  });
  folder.write('berth.schema.json', out);
  const chain = (more: string) => `name: c\napi: a\nsteps:\n  - { call: berth, request: POST /9${more} }\n`;
  folder.write('c.chain.yaml', chain(', expect: [{ schema: berth.schema.json }]'));
  expect(await run()).toBe(0);
  folder.write('berth.schema.json', out.replace('"id"\n', '"name"\n').replace('"id",', '"name",'));
  expect(await run()).toBe(1);

  counting.status = 500;
  folder.write('c.chain.yaml', chain(''));
  expect(await run()).toBe(1);
  const none = await folder.run(['export', 'schema', 'berth']);
  expect([none.status, none.err]).toEqual([2, expect.stringContaining('no recorded response with a 2xx status')]);
  for (const [args, message] of [
    [['schema'], 'export schema needs a call'],
    [['schema', 'quay'], 'has no call "quay"'],
    [['curl', ...both], '--run is given once with export curl'],
  ] as const)
    expect((await folder.run(['export', ...args])).err).toContain(message);
});
