import fc from 'fast-check';
import { readJson } from '../../src/core/value/json-read.ts';
import { writeJson } from '../../src/core/value/json-write.ts';
import { typeOf, memberOf } from '../../src/core/value/value.ts';

const roundTrip = (text: string): string => {
  const read = readJson(text);
  return read.ok ? writeJson(read.value) : `${read.reason} at ${read.offset}`;
};

describe('numbers that are only passed on keep their text', () => {
  test.each([
    '1.10',
    '1e2',
    '-0',
    '12345678901234567890',
    '0.1234567890123456789',
    '1E+2',
    '-1.50',
    '100',
    '1.5',
    '9007199254740993',
  ])('%s', (number) => expect(roundTrip(`{"n":[${number}]}`)).toBe(`{"n":[${number}]}`));
});

describe('what is no JSON says where', () => {
  test.each([
    ['', 'syntax at 0'],
    ['{', 'syntax at 1'],
    ['[1,]', 'syntax at 3'],
    ['{"a" 1}', 'syntax at 5'],
    ['{"a":1,}', 'syntax at 7'],
    ['[1] x', 'syntax at 4'],
    ['"a\nb"', 'syntax at 0'],
    ['"\\x"', 'syntax at 0'],
    ['[01]', 'syntax at 2'],
    ['nul', 'syntax at 0'],
    ['[1e999]', 'number-range at 1'],
    [`${'['.repeat(600)}`, 'too-deep at 512'],
  ])('%s', (text, expected) => expect(roundTrip(text)).toBe(expected));
});

test('our reader and the engine agree on every JSON text', () => {
  fc.assert(
    fc.property(fc.json({ maxDepth: 6 }), fc.constantFrom('', ' ', '\n'), (text, blank) => {
      const own = readJson(`${blank}${text}${blank}`);
      const exact = readJson(`[1.0,${text}]`);
      expect(own.ok && JSON.parse(writeJson(own.value))).toEqual(JSON.parse(text));
      expect(exact.ok).toBe(true);
    }),
    { numRuns: 500 },
  );
});

test('a hundred thousand levels end in a message', () => {
  expect(readJson('['.repeat(100_000))).toMatchObject({ ok: false, reason: 'too-deep' });
  expect(readJson('{"a":'.repeat(100_000))).toMatchObject({ ok: false, reason: 'too-deep' });
});

test.each(['{"__proto__": {"polluted": 1}}', '{"__proto__": {"polluted": 1.0}}'])(
  '%s holds a member of that name and touches no prototype',
  (text) => {
    const read = readJson(text);
    expect(({} as Record<string, unknown>)['polluted']).toBeUndefined();
    expect(read.ok && typeOf(memberOf(read.value, '__proto__'))).toBe('object');
    expect(read.ok && memberOf(read.value, 'constructor')).toBeUndefined();
    expect(read.ok && writeJson(read.value)).toContain('"__proto__"');
  },
);

test('a byte-order mark is skipped and strings with quotes and backslashes do not mislead the scan', () => {
  expect(roundTrip('\ufeff[1]')).toBe('[1]');
  expect(roundTrip('["\\\\", "[[[\\"[[", 1.50]')).toBe('["\\\\","[[[\\"[[",1.50]');
});
