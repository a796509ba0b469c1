import { chainOf, coreRun } from '../support/engine.ts';
import { evaluated } from '../support/expressions.ts';

const BODY = { n: 1, nothing_here: null, list: [{ a: 1 }, {}] };

/** Section 1.4: what nothing makes of an expression; `$.no` finds nothing. */
describe('every operator', () => {
  const comparisons = ['==', '!=', '<', '<=', '>', '>='].flatMap((operator) => [
    `$.no ${operator} 1`,
    `1 ${operator} $.no`,
    `$.no ${operator} $.no`,
  ]);
  const arithmetic = ['+', '-', '*', '/', '%'].flatMap((operator) => [`$.no ${operator} 1`, `1 ${operator} $.no`]);
  test.each([
    ...comparisons,
    ...arithmetic,
    '$.no in [1]',
    '1 in $.no',
    '-$.no',
    '!($.no == 1)',
    'not($.no == 1)',
    'not($.no != 1)',
    'length($.no)',
    'length($.no) > 0',
    'upper($.no)',
    'all($.no, @ > 1)',
    'all($.list, @.a > 0)',
    'any($.list, @.a > 5)',
    '$.no == 1 && $.n == 1',
    '$.n == 1 && $.no == 1',
    '$.no == 1 || $.n == 2',
    '$.n == 2 || $.no == 1',
    'length($.no) ?? $.no',
    '$.no',
    '$.list[5]',
    'first([])',
    'min([])',
    "captured('x', 'y')",
  ])('%s is nothing', (text) => expect(evaluated(text, BODY)).toEqual({ value: undefined }));

  test.each([
    ['$.no == 1 && $.n == 2', false],
    ['$.n == 2 && $.no == 1', false],
    ['$.no == 1 || $.n == 1', true],
    ['$.n == 1 || $.no == 1', true],
    ['$.no ?? 5', 5],
    ['$.nothing_here ?? 5', 5],
    ['length($.no ?? [])', 0],
    ['exists($.no)', false],
    ['exists($.nothing_here)', true],
    ['not(exists($.no))', true],
    ['type_of($.no)', 'nothing'],
    ["if($.n == 1, 'a', $.no)", 'a'],
    ['any($.list, @.a == 1)', true],
    ['length(filtered($.list, @.a == 1))', 1],
    ['$.list[?@.no == 1]', []],
    ['$.list[?@.no == @.nope]', [{ a: 1 }, {}]],
    ['sum([])', 0],
    ['all([], @ > 1)', true],
    ['any([], @ > 1)', false],
  ])('%s is %j', (text, value) => expect(evaluated(text, BODY)).toEqual({ value }));

  test.each(['[$.no]', 'mapped($.list, @.a)', 'sorted($.list, @.a)', 'grouped($.list, @.a)', 'if($.no == 1, 1, 2)'])(
    '%s is an error or nothing, never a value',
    (text) => {
      expect(evaluated(text, BODY).value).toBeUndefined();
    },
  );
});

/** The key decides what nothing means. */
describe('every place', () => {
  const answers = { answers: [{ body: JSON.stringify(BODY) }] };
  const call = (more: string) => chainOf(`- call: a\n  request: GET /a\n${more}`);
  const after = (step: string) =>
    chainOf(`- call: a\n  request: GET /a\n  keep: { x: "$.nothing_here ?? null", list: $.list }\n${step}`);

  test.each([
    ['expect', call('  expect: ["$.no == 1"]')],
    ['expect, whatever the operator', call('  expect: ["$.no != 1"]')],
    ['expect, turned round', call('  expect: ["not($.no == 1)"]')],
    ['expect of all()', call('  expect: ["all($.no, @ > 1)"]')],
    ['keep', call('  keep: { y: $.no }')],
    ['when', after('- say: hi\n  when: list[1].a == 1')],
    ['if', after('- if: list[1].a == 1\n  steps: [{ say: hi }]')],
    ['let', after('- let: { y: "list[1].a" }')],
    ['a placeholder in text', after('- say: "{list[1].a}"')],
    ['a placeholder alone in json', after('- call: b\n  request: POST /b\n  json: { y: "{list[1].a}" }')],
    ['a placeholder in the target', after('- call: b\n  request: GET /b/{list[1].a}')],
    ['a parameter', after('- call: b\n  request: GET /b\n  query: { y: "{list[1].a}" }')],
    ['wait', after('- wait: list[1].a * 1s')],
    ['includes', call('  expect:\n    - includes: { n: "{response.no}" }')],
  ])('%s', async (_name, chain) => {
    const { exit, codes } = await coreRun(chain, answers);
    expect([exit, codes[0]]).toEqual([1, 'found-nothing']);
  });

  test('gives leaves it out', async () => {
    expect((await coreRun(`${after('- say: hi')}outputs: { y: "list[1].a", z: list }\n`, answers)).outputs).toEqual({
      z: BODY.list,
    });
  });

  test('an optional input that is not given leaves out what is exactly its placeholder', async () => {
    const chain = chainOf(
      '- call: a\n  request: POST /a{?flag}\n  query: { f: "{flag}", g: x }\n  headers: { F: "{flag}" }\n  json: { f: "{flag}", g: 1 }',
      'inputs: { flag: { type: string, optional: true } }\n',
    );
    const { sent } = await coreRun(chain, answers);
    expect(sent[0]).toMatchObject({ url: 'http://127.0.0.1:1/v1/a?g=x', body: '{"g":1}' });
    expect(sent[0]!.headers.map(([name]) => name)).not.toContain('F');
  });
});
