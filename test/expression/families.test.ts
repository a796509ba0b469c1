import { showValue } from '../../src/core/value/show.ts';
import type { Value } from '../../src/core/value/value.ts';
import { evaluated, part } from '../support/expressions.ts';

const body: Value = {
  items: [
    { id: 'a', n: 3, tag: 'x' },
    { id: 'b', n: 1, tag: 'y' },
    { id: 'c', n: 2, tag: 'x', extra: null },
  ],
  none: [],
  object: { a: 1, b: null },
  emoji: '😀b',
};

describe('what functions give', () => {
  test.each([
    ['first($.none)', 'nothing'],
    ['last($.items).id', "'c'"],
    ['at($.items, 9)', 'nothing'],
    ['at($.items, -3).id', "'a'"],
    ['range(3)', '[0,1,2]'],
    ['range(3, 1)', '[]'],
    ['batches($.none, 2)', '[]'],
    ['flat([[1, [2]]])', '[1,[2]]'],
    ['slice($.emoji, 0, 1)', "'😀'"],
    ['slice([1, 2, 3], -2)', '[2,3]'],
    ['sorted($.items, @.n)[*].id', '["b","c","a"]'],
    ["sorted(['b', 'a'])", '["a","b"]'],
    ['sorted($.none)', '[]'],
    ['reversed(sorted([2, 1, 3]))', '[3,2,1]'],
    ['distinct($.items, @.tag)[*].id', '["a","b"]'],
    ["distinct([1, 1.0, '1'])", '[1,"1"]'],
    ["grouped($.items, @.tag)[?@.key == 'x'].items[*].id", '["a","c"]'],
    ['sum($.none)', '0'],
    ['sum([1s, 500ms])', '1.5s'],
    ['min($.none)', 'nothing'],
    ['max($.items, @.n)', '3'],
    ['mean($.none)', 'nothing'],
    ['mean([1s, 2s])', '1.5s'],
    ['filtered($.items, @.n > 1)[*].id', '["a","c"]'],
    ['filtered($.items, @.gone == 1)', '[]'],
    ['mapped($.items, @.n * 2)', '[6,2,4]'],
    ['mapped($.items, @.extra ?? 0)', '[0,0,0]'],
    ['all($.none, @.n > 100)', 'true'],
    ['any($.none, @.n > 100)', 'false'],
    ['all($.items, @.n > 0)', 'true'],
    ['any($.items, all($.items, @.n > 0) && @.n == 2)', 'true'],
    ['$.items[?any([1, 2], @ == 1) && @.n == 1].id', '["b"]'],
    ["if($.items[0].n == 3, 'three', $.gone + 1)", "'three'"],
    ["if($.gone == 1, 1, 2) ?? 'neither'", "'neither'"],
    ['if(1 == 2, 1, $.gone)', 'nothing'],
    ['type_of($.gone)', "'nothing'"],
    ['type_of(1s)', "'duration'"],
    ["without($.object, ['b', 'zz'])", '{"a":1}'],
    ['merged($.object, object_of([]))', '{"a":1,"b":null}'],
    ["integer('-12')", '-12'],
    ['integer(-3.9)', '-3'],
    ["split('a,b', ',')", '["a","b"]'],
    ["replaced('a$b', '$', '$&')", "'a$&b'"],
    ["joined([1, true, 'x'], '-')", "'1-true-x'"],
    ["padded('abc', -5, '.')", "'abc..'"],
    ["base64url('å?>')", "'w6U_Pg'"],
    ["base64_decoded(base64('å'))", "'å'"],
    [
      "hex(hmac('sha256', 'key', 'The quick brown fox jumps over the lazy dog'))",
      "'f7bc83f430538424b13298e6aa6fb143ef4d59a14946175997479dbc2d1a3cd8'",
    ],
    ["sha256('')", "'e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855'"],
    ["md5('Kvitnes') == md5('Kvitnes')", 'true'],
    ['parse_json(\'{"a": 1.10}\').a', '1.10'],
  ])('%s is %s', (text, expected) => expect(showValue(evaluated(text, body).value)).toBe(expected));
});

test.each([
  ['all($.items, @.gone == 1)', undefined],
  ['all($.items, @.extra == null)', undefined],
  ['any($.items, @.gone == 1)', undefined],
  ['any($.items, @.extra == null)', true],
  ['all($.items, @.tag == "y" && @.gone == 1)', false],
  ['not(all($.items, @.gone == 1))', undefined],
])('over items nothing never holds: %s is %s', (text, expected) => expect(evaluated(text, body).value).toBe(expected));

describe('what functions refuse', () => {
  test.each([
    ['single($.items)', '$.items', 'exactly one item'],
    ['zipped([1], [])', '[1]', 'equal length'],
    ["sorted([1, 'a'])", "[1, 'a']", 'all of one type'],
    ['sorted($.items, @.extra)', '@.extra', 'found nothing for item 1'],
    ["sum(['a'])", "['a']", 'can be added'],
    ['batches([1], 0)', '0', '1 or more'],
    ['range(0, 99999999)', '0', 'at most 10,000,000'],
    ["only($.object, ['z'])", "['z']", 'needs the member "z"'],
    ['object_of([{}])'.replace('{}', '1'), '[1]', '{key, value}'],
    [
      'object_of(flat([entries($.object), entries($.object)]))',
      'flat([entries($.object), entries($.object)])',
      'twice',
    ],
    ["boolean('yes')", "'yes'", "'true' or 'false'"],
    ["integer('1.5')", "'1.5'", 'not a whole number'],
    ["parse_json('{')", "'{'", 'not JSON'],
    ["url_decoded('%zz')", "'%zz'", 'percent-encoded'],
    ["base64_decoded('%%')", "'%%'", 'base64'],
    ["hmac('sha3', 'k', 'x')", "'sha3'", 'sha256'],
    ['joined([[1]], "-")', '[[1]]', 'item 1'],
    ["replaced('a', '', 'b')", "''", 'empty string'],
    ['first($.object)', '$.object', 'takes an array'],
    ['keys($.items)', '$.items', 'takes an object'],
  ])('%s', (text, underlined, told) => {
    const { problem } = evaluated(text, body);
    expect(problem?.message).toContain(told);
    expect(part(text, problem!.range)).toBe(underlined);
  });
});
