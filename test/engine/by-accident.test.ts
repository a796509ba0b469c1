import fc from 'fast-check';
import { chainOf, coreRun } from '../support/engine.ts';

/** Cases of the property; `npm run soak` asks for many more. */
const RUNS = process.env['SOAK'] === undefined ? 150 : Math.ceil(Number(process.env['SOAK']) / 16);

const due = {
  port: 'Kvitnes',
  arrivals: [
    { id: 1, berth: 'N1', state: 'expected', total: 3 },
    { id: 2, berth: 'N2', state: 'moored', total: 4 },
  ],
  none: [],
  count: '12',
};
const run = (more: string, body: object = due) =>
  coreRun(chainOf(`- call: due\n  request: GET /due\n  ${more}`), { answers: [{ body: JSON.stringify(body) }] });

test.each([
  ['keep: { ids: "$.arivals[*].id" }', 'found-nothing'],
  ['keep: { ids: "$.vessels[?@.flag == \'NO\'].id" }', 'found-nothing'],
  ['keep: { ids: "$.port[*]" }', 'found-nothing'],
  ['keep: { ids: "$.arrivals[0].id[1:]" }', 'found-nothing'],
  ['keep: { ids: "$.erors..code" }', 'found-nothing'],
  ['keep: { n: "count($.arivals[*])" }', 'found-nothing'],
  ['keep: { t: "joined($.arivals[*].berth, \' / \')" }', 'found-nothing'],
  ['expect: ["length($.erors[*]) == 0"]', 'found-nothing'],
  ['expect: ["not(any($.erors[*], @.code == 1))"]', 'found-nothing'],
  ['expect: ["count($.arrivals[*].quay) == 0"]', 'found-nothing'],
  ['expect: ["$.arrivals[*].quay == []"]', 'found-nothing'],
  ['expect: ["length($.arrivals[*].berth.name) == 0"]', 'found-nothing'],
])('%s does not pass: %s', async (more, code) => {
  const { exit, codes } = await run(more);
  expect([exit, codes]).toEqual([1, expect.arrayContaining([code])]);
});

test.each([
  [
    'keep: { all: "$.arrivals[*].quay" }',
    'never-found',
    'quay\\" was in none of 2 items; they have id, berth, state, total',
  ],
  ['keep: { all: "$.arrivals[?@.paid == true]" }', 'never-found', '@.paid was in none of 2 items'],
  ['keep: { all: "filtered($.arrivals, @.paid == true)" }', 'never-found', '@.paid was in none of 2 items'],
  ['expect: ["all($.arrivals, @.stat != \'cancelled\')"]', 'expectation-false', ''],
  ['expect: ["count($.arrivals[?@.paid != true]) == 2"]', 'never-found', '@.paid'],
  ['expect: ["all($.none, @.id > 0)"]', 'nothing-to-check', ''],
  ['expect: ["!any($.none, @.id > 0)"]', 'nothing-to-check', ''],
  ['expect: ["status == 200 && all($.none, @.id > 0)"]', 'nothing-to-check', ''],
  ['expect: [{ equals: { a: 1 }, except: ["$.*"] }]', 'nothing-to-check', 'except leaves out all there is'],
  ['expect: ["$.count != 12"]', 'types-differ', "'12' is a string and 12 is a number"],
])('%s says %s', async (more, code, said) => {
  const { codes, events } = await run(more);
  expect(codes).toContain(code);
  expect(JSON.stringify(events)).toContain(said);
});

test.each([
  'keep: { all: "$.arrivals[*].id" }',
  'keep: { all: "$.none[*].id" }',
  'keep: { all: "$.arivals[*].id ?? []" }',
  'keep: { all: "$.arrivals[?@.state == \'gone\'].id" }',
  'keep: { all: "$.arrivals[?@.error]" }',
  'keep: { all: "$.arrivals[?exists(@.paid)]" }',
  'keep: { all: "filtered($.arrivals, (@.paid ?? false) == true)" }',
  'keep: { all: "$..quay" }',
  'expect: ["length($.none[*]) == 0", "exists($.arivals[*]) == false", "all($.none, @.id > 0) || status == 200"]',
])('%s means what it says', async (more) => {
  const { exit, codes } = await run(more);
  expect([exit, codes]).toEqual([0, []]);
});

test('a loop over nothing, and a chain that did nothing, are notes', async () => {
  const loop = await coreRun(chainOf('- each: a in []\n  steps:\n    - say: "{a}"'));
  expect([loop.exit, loop.codes]).toEqual([0, ['nothing-to-check']]);
  const skipped = await coreRun(chainOf('- let: { no: 1 == 2 }\n- call: a\n  when: no\n  request: GET /x'));
  expect([skipped.exit, skipped.codes]).toEqual([0, ['nothing-to-check']]);
});

/** Expectations that hold, each by what it reads: whatever becomes of that member, one says so. */
const readings: readonly (readonly [path: readonly (string | number)[], expectation: string])[] = [
  [['port'], "$.port == 'Kvitnes'"],
  [['port'], "$.port != 'Elsewhere'"],
  [['count'], "$.count in ['12', '13']"],
  [['arrivals'], 'length($.arrivals[*]) == 2'],
  [['arrivals'], "!any($.arrivals[*], @.state == 'cancelled')"],
  [['arrivals', 0, 'total'], 'sum($.arrivals, @.total) == 7'],
  [['arrivals', '*', 'state'], "all($.arrivals, @.state != 'cancelled')"],
  [['arrivals', '*', 'state'], "count($.arrivals[?@.state == 'cancelled']) == 0"],
  [['arrivals', '*', 'berth'], "$.arrivals[*].berth == ['N1', 'N2']"],
  [['none'], 'length($.none) == 0'],
  [['none'], 'count($.none[*].id) == 0'],
];
// Null says that there is no value now, which `!=` allows.
const OTHER_TYPES: readonly unknown[] = [5, 'x', true, { a: 1 }];

function changed(path: readonly (string | number)[], how: 'rename' | 'remove' | number): object {
  const body = JSON.parse(JSON.stringify(due)) as Record<string, unknown>;
  const change = (holder: Record<string, unknown>, [key, ...rest]: readonly (string | number)[]): void => {
    if (key === '*') (holder as unknown as Record<string, unknown>[]).forEach((item) => change(item, rest));
    else if (rest.length > 0) change(holder[key!] as Record<string, unknown>, rest);
    else if (how === 'rename' || how === 'remove') {
      if (how === 'rename') holder[`${key}x`] = holder[key!];
      delete holder[key!];
    } else holder[key!] = OTHER_TYPES[how];
  };
  change(body, path);
  return body;
}

test('nothing that an expectation reads can be renamed, removed or of another type without a word', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(...readings),
      fc.oneof(fc.constantFrom('rename' as const, 'remove' as const), fc.nat(OTHER_TYPES.length - 1)),
      async ([path, expectation], how) => {
        // Another text in place of a text is no other type.
        const isText = ['port', 'count', 'state', 'berth'].includes(String(path.at(-1)));
        fc.pre(typeof how !== 'number' || OTHER_TYPES[how] !== 'x' || !isText);
        const more = `expect: [${JSON.stringify(expectation)}]`;
        const before = await run(more);
        expect([before.exit, before.codes]).toEqual([0, []]);
        const after = await run(more, changed(path, how));
        expect([expectation, how, after.exit !== 0 || after.codes.length > 0]).toEqual([expectation, how, true]);
      },
    ),
    { numRuns: RUNS },
  );
}, 3_600_000);

test.each([
  ['call: use\n  request: GET /x/{ids[0]}', 'ids[0] found nothing: ids is an empty array'],
  ['let: { one: "first(ids)" }', 'first(ids) found nothing: ids is an empty array'],
  ['let: { one: "single(ids)" }', 'this one has none'],
  ['say: "{ids[0]}"', 'ids is an empty array'],
  ['if: "ids[0] > 2"\n  steps:\n    - say: x', 'ids is an empty array'],
  ['expect: ["ids[0] > 2"]', 'ids is an empty array'],
  ['expect: ["single(ids) > 2"]', 'this one has none'],
  ['each: id in ids\n  steps:\n    - say: "{id}"', 'the array is empty'],
])('what needs an item of an empty array says who kept it: %s', async (step, said) => {
  const text = chainOf(
    `- call: due\n  request: GET /due\n  keep: { ids: "$.arrivals[?@.state == 'gone'].id" }\n- ${step}\n`,
  );
  const { events } = await coreRun(text, { answers: [{ body: JSON.stringify(due) }] });
  const told = JSON.stringify(events);
  expect(told).toContain(said);
  expect(told).toContain(
    "ids was kept by due as an empty array: $.arrivals[?@.state == 'gone'].id (test.chain.yaml:5)",
  );
});
