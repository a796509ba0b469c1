import { useCounting } from '../support/counting.ts';
import { useDemo } from '../support/harbour.ts';

const demo = useDemo();
const { projectWith } = useCounting();

test('what is not known is guessed and said; after a run it is as it was then; a quota that does not last is told', async () => {
  const folder = demo();
  const chain = 'chains/clearance.chain.yaml';
  const unknown = await folder.run(['forecast', chain]);
  expect([unknown.status, unknown.out.includes('set it with --assume due=200')]).toEqual([0, true]);
  const said = JSON.parse((await folder.run(['forecast', chain, '--assume', 'due=40', '--as', 'json'])).out);
  expect(said.calls).toContainEqual({ name: 'vessel', times: 40, requests: 40 });
  await folder.run(['run', chain]);
  const run = folder.journals()[0]!;
  const known = JSON.parse((await folder.run(['forecast', chain, '--as', 'json'])).out);
  expect(known.guesses).toEqual([]);
  expect(known.requests).toBeGreaterThanOrEqual(
    run.filter(({ type, step }) => type === 'sent' && !/^2#[34]\.3/.test(String(step))).length,
  );
  // Three polls of a job, a second apart.
  expect(known.ms).toBeGreaterThan(1000);
  const many = await folder.run(['forecast', 'chains/pilots.chain.yaml', '--input', 'count=900']);
  expect(many.out).toMatch(/quota 500\/day of pilotage: spent after 500 requests/);
  // Nothing was taken of the real quota.
  const few = JSON.parse(
    (await folder.run(['forecast', 'chains/pilots.chain.yaml', '--input', 'count=3', '--as', 'json'])).out,
  );
  expect(few.quotas).toMatchObject([{ text: '500/day', used: 3 }]);
  expect(folder.journals()).toHaveLength(1);
});

test('a response that is fresh enough for these inputs costs nothing, and one for other inputs is sent', async () => {
  const folder = projectWith(
    'inputs:\n  day: number\nsteps:\n  - call: tide\n    request: GET /tides/{day}\n    fresh-for: 1h\n    keep: { id: $.id }\n' +
      '  - call: level\n    request: GET /levels/{id}\n    fresh-for: 1h\n',
  );
  const requests = async (day: number) => {
    const { out } = await folder.run(['forecast', 'c.chain.yaml', '--input', `day=${day}`, '--as', 'json']);
    return JSON.parse(out).calls.map((call: { requests: number }) => call.requests);
  };
  expect(await requests(1)).toEqual([1, 1]);
  for (let i = 0; i < 2; i++) await folder.run(['run', 'c.chain.yaml', '--input', 'day=1']);
  // The second call depends on a response, so whether it is fresh cannot be known.
  expect([await requests(1), await requests(2)]).toEqual([
    [0, 1],
    [1, 1],
  ]);
});
