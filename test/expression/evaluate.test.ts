import { showValue } from '../../src/core/value/show.ts';
import type { Value } from '../../src/core/value/value.ts';
import { evaluated, part } from '../support/expressions.ts';

const body: Value = {
  job: { id: 'J-884', state: 'queued', percent: 40 },
  arrivals: [
    { id: 'A-1', draught: 6.5, berth: 'N1', tags: ['a'] },
    { id: 'A-2', draught: 4, berth: null, tags: [] },
    { id: 'A-3', draught: 8.25, tags: ['a', 'b'] },
  ],
  nothing: null,
  zero: 0,
  yes: true,
};
const names: Record<string, Value> = { limit: 5, ready: true, wanted: 'A-2', vessel: { id: 'A-3' }, list: [1, 2] };

describe('values', () => {
  test.each([
    ['$.job.id', "'J-884'"],
    ["$['job']['state']", "'queued'"],
    ['$.arrivals[-1].id', "'A-3'"],
    ['$.arrivals[*].id', '["A-1","A-2","A-3"]'],
    ['$.arrivals[?@.draught > limit].id', '["A-1","A-3"]'],
    ['$.arrivals[?@.id == vessel.id].draught', '[8.25]'],
    ["$.arrivals[?@.berth ?? 'none' == 'none'].id", '["A-2","A-3"]'],
    ["$.arrivals[?@.id in ['A-1', 'A-3']].id", '["A-1","A-3"]'],
    ['$.arrivals[?@.draught * 2 > 15].id', '["A-3"]'],
    ["$.arrivals[?'b' in @.tags].id", '["A-3"]'],
    ['$.arrivals[?@.draught + 1 == 5].id', '["A-2"]'],
    ['list[1]', '2'],
    ['limit * 2 + 1', '11'],
    ['7 % 4', '3'],
    ['-7 % 4', '-3'],
    ['10 / 4', '2.5'],
    ['9007199254740993 + 1', '9007199254740994'],
    ['9007199254740991 + 1', '9007199254740992'],
    ['90071992547409930 / 10', '9007199254740993'],
    ["'a' + 'b'", "'ab'"],
    ['1h + 30m', '90m'],
    ['1.5s * 2', '3s'],
    ['3s / 1ms', '3000'],
    ['$.nothing ?? 1', '1'],
    ['$.missing ?? $.gone ?? 2', '2'],
    ['[1, $.zero]', '[1,0]'],
    ["string($.job.percent) + '%'", "'40%'"],
  ])('%s is %s', (text, expected) => expect(showValue(evaluated(text, body, names).value)).toBe(expected));
});

describe('conditions', () => {
  test.each<[string, boolean]>([
    ["$.job.state == 'queued'", true],
    ['1 == 1.0', true],
    ["1 == '1'", false],
    ["'a' < 'b'", true],
    ["'Z' < 'a'", true],
    ["1 < 'b'", false],
    ['1s < 2m', true],
    ['$.zero in [0, 1]', true],
    ["[1, {}['x']] == 1".replace("{}['x']", '2'), false],
    ['$.arrivals[0] == $.arrivals[0]', true],
    ['$.yes == true', true],
    ['ready && $.zero == 0', true],
    ['!(limit > 5)', true],
    ['not(limit > 5)', true],
    ['exists($.job.id)', true],
    ['exists($.arrivals[?@.draught > 100])', false],
    ['exists($.gone)', false],
    ['12345678901234567890 == 12345678901234567890', true],
    ['12345678901234567890 > 12345678901234567889', true],
  ])('%s is %s', (text, expected) => expect(evaluated(text, body, names).value).toBe(expected));
});

describe('nothing passes by accident', () => {
  const nothing = ['$.gone', 'unbound', '$.gone.further', '$.arrivals[9]', 'unbound.id', 'unbound[*].id'];
  const operators = ['==', '!=', '<', '<=', '>', '>=', 'in'];
  const rows = operators.flatMap((operator) => [
    `$.gone ${operator} ${operator === 'in' ? '[1]' : '1'}`,
    `not($.gone ${operator} ${operator === 'in' ? '[1]' : '1'})`,
    `!($.gone ${operator} ${operator === 'in' ? '[1]' : '1'})`,
    ...(operator === 'in' ? [] : [`1 ${operator} $.gone`, `$.gone ${operator} $.other`]),
  ]);
  test.each([...nothing, ...rows, '$.gone + 1', '-$.gone', 'lower($.gone)', 'length($.gone) ?? $.gone'])(
    '%s is nothing',
    (text) => {
      expect(evaluated(text, body, names)).toEqual({ value: undefined });
    },
  );

  test.each<[string, unknown]>([
    ['$.gone == 1 && 1 == 2', false],
    ['1 == 2 && $.gone == 1', false],
    ['$.gone == 1 || 1 == 1', true],
    ['1 == 1 || $.gone == 1', true],
    ['$.gone == 1 && 1 == 1', undefined],
    ['$.gone == 1 || 1 == 2', undefined],
  ])('%s is %s, since the deciding side decides in either order', (text, expected) => {
    expect(evaluated(text, body, names).value).toBe(expected);
  });

  test('an unbound name in a filter selects nothing, not what lacks the member', () => {
    expect(evaluated('$.arrivals[?@.berth == unbound]', body).value).toBeUndefined();
    expect(evaluated('$.arrivals[?@.berth == vessel.gone]', body, names).value).toBeUndefined();
    expect(evaluated("$.arrivals[?@.id == (unbound ?? 'A-2')].draught", body).value).toEqual([4]);
  });

  test('an empty body is nothing', () => {
    expect(evaluated('exists($)', undefined).value).toBe(false);
    expect(evaluated('$..id', undefined).value).toBeUndefined();
  });
});

describe('errors have their place', () => {
  test.each([
    ['$.job.percent + $.job.id', 'wrong-argument', '$.job.percent + $.job.id', 'string(x)'],
    ['1 / $.zero', 'wrong-argument', '1 / $.zero', ''],
    ['$.nothing + 1', 'wrong-argument', '$.nothing + 1', '?? 0'],
    ['lower($.job.percent)', 'wrong-argument', '$.job.percent', 'string(x)'],
    ['$.job.id in $.job', 'wrong-argument', '$.job', 'keys(object)'],
    ['limit && $.yes == true', 'not-a-condition', 'limit', ''],
    ['[$.gone]', 'found-nothing', '$.gone', '?? null'],
    ["number('12 m')", 'wrong-argument', "'12 m'", ''],
    ['1s + 1', 'wrong-argument', '1s + 1', ''],
    ['match($.job.id, $.job.state + "(")', 'wrong-argument', '$.job.state + "("', ''],
  ])('%s', (text, code, underlined, advice) => {
    const { problem } = evaluated(text, body, names);
    expect(problem).toMatchObject({ code });
    expect(part(text, problem!.range)).toBe(underlined);
    expect(problem!.advice ?? '').toContain(advice);
  });

  test('inside a filter a wrong kind is nothing for the item, and the others are still found', () => {
    expect(evaluated('$.arrivals[?lower(@.berth) == "n1"].id', body).value).toEqual(['A-1']);
    expect(evaluated("$.arrivals[?@.berth + 'x' == 'N1x'].id", body).value).toEqual(['A-1']);
  });
});
