import type { EventOf } from '../../src/core/journal/events.ts';
import { chainOf, coreRun } from '../support/engine.ts';

const body = '{"port": "Kvitnes", "berths": [{"id": "N1", "depth": 7}, {"id": "N2", "depth": 9}]}';
const other = body.replace('"depth": 9', '"depth": 8').replace('Kvitnes', 'Vik');
const run = (entries: string) =>
  coreRun(
    chainOf(`- call: one
  request: GET /one
  keep: { before: $ }
- call: two
  request: GET /two
  keep: { after: $, berths: $.berths }
- expect:
${entries.replace(/^/gm, '    ')}
- say: behind`),
    { answers: [{ body }, { body: other }] },
  );

test.each([
  ['- before != after', 0, []],
  ['- length(berths) == 2\n- includes: { port: Vik }\n  of: after\n- schema: { type: array }\n  of: berths', 0, []],
  ["- equals: '{before}'\n  of: after\n  except: [$.port, '$.berths[1].depth']", 0, []],
  ["- difference(before, after, ['$.port', '$.berths[*].depth']) == []", 0, []],
  ['- difference(before, after)[*].path == ["$.port", "$.berths[1].depth"]', 0, []],
  ['- before == after\n- includes: { port: Kvitnes }\n  of: after', 1, ['expectation-false', 'expectation-false']],
  ["- equals: '{before}'\n  of: after", 1, ['expectation-false']],
  ['- schema: { type: object }\n  of: berths', 1, ['expectation-false']],
  ['- includes: 1\n  of: after.none', 1, ['found-nothing']],
])('%s', async (entries, exit, codes) => {
  const ran = await run(entries);
  expect([ran.exit, ran.codes]).toEqual([exit, codes]);
  expect(ran.ended.includes('passed 4/say')).toBe(exit === 0);
  const [{ totals }] = ran.events.flatMap((event) => (event.type === 'finished' ? [event] : [])) as [
    EventOf<'finished'>,
  ];
  const entriesCount = entries.split('\n').filter((line) => line.startsWith('- ')).length;
  expect([totals.expects, totals.expects - totals.passed]).toEqual([2 + entriesCount, codes.length]);
});

test('values that differ say where', async () => {
  const { events } = await run("- before == after\n- equals: '{before}'\n  of: after");
  const { expects = [] } = events.flatMap((event) =>
    event.type === 'ended' && event.kind === 'expect' ? [event] : [],
  )[0]!;
  const at = ['$.port', '$.berths[1].depth'];
  expect(expects.map(({ places }) => places?.first.map(({ path }) => path))).toEqual([at, at]);
  expect(expects[0]!.places!.first[1]!.text).toBe('expected 8, found 9');
});

test.each([
  ['- $.id == 1', 'no-response-here'],
  ['- includes: { a: 1 }', 'key-missing'],
  ['- difference(before, after, ["port"]) == []', 'wrong-argument'],
])('%s is refused: %s', async (entries, code) => {
  const ran = await run(entries).catch((error: Error) => error);
  expect(ran instanceof Error ? ran.message : ran.codes.join()).toContain(code);
});
