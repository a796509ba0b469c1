import { chainOf, coreRun } from '../support/engine.ts';

const due = 'parse_json(\'[{"vessel": "KM 1", "quay": {"code": "N"}}]\')';

test.each([
  ['a member of an item', '{due[0].vesel}', 'due[0] is an object with vessel, quay', 'due[0].vessel is there.'],
  ['a member further in', '{due[0].quay.cod}', 'due[0].quay is an object with code', 'due[0].quay.code is there.'],
  ['with nothing near', '{due[0].flag}', 'due[0] is an object with vessel, quay', 'Write {due[0].flag ?? ...} with'],
])('a placeholder that found nothing says how far its path got: %s', async (_name, placeholder, there, advice) => {
  const text = chainOf(`- let: { due: '${due.replaceAll("'", "''")}' }\n- call: c\n  request: GET /v/${placeholder}`);
  const { events, sent } = await coreRun(text, { answers: [] });
  const problems = events.flatMap((event) => (event.type === 'ended' && event.problem ? [event.problem] : []));
  expect(sent).toEqual([]);
  expect(problems[0]).toMatchObject({ code: 'found-nothing', message: expect.stringContaining(there) });
  expect(problems[0]!.advice).toContain(advice);
});
