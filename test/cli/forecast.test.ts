import { useDemo } from '../support/harbour.ts';

const demo = useDemo();

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
