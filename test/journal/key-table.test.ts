import fc from 'fast-check';
import { NumberedPlaces } from '../../src/core/journal/numbered-places.ts';
import { KeyTable } from '../../src/core/journal/key-table.ts';

test('keys have the numbers in whose order they came, however many there are', () => {
  const keys: string[] = [];
  const table = new KeyTable((number) => keys[number]!);
  const numbers = new Map<string, number>();
  fc.assert(
    fc.property(fc.array(fc.string({ maxLength: 6 }), { maxLength: 900 }), (some) => {
      for (const key of some) {
        const number = table.add(key);
        if (number === keys.length) keys.push(key);
        if (!numbers.has(key)) numbers.set(key, number);
      }
      return some.every((key) => table.find(key) === numbers.get(key) && keys[numbers.get(key)!] === key);
    }),
    { numRuns: 60 },
  );
  expect(table.size).toBe(numbers.size);
  expect(table.find('no such key at all')).toBe(-1);
});

test('keys whose hashes are the same are told apart by their texts', () => {
  // Found by trying: these two have the same 32 bits.
  const keys = ['each:vessel{9eo8w1}/ask', 'each:vessel{xopsh3}/ask'];
  const asked: number[] = [];
  const table = new KeyTable((number) => (asked.push(number), keys[number]!));
  expect(keys.map((key) => table.add(key))).toEqual([0, 1]);
  expect(keys.map((key) => table.find(key))).toEqual([0, 1]);
  expect(asked.length).toBeGreaterThan(0);
});

test('places are what was put there, also beyond four gibibytes, and for a number that a damaged line gave', () => {
  const places = new NumberedPlaces();
  const put: readonly (readonly [number, number])[] = [
    [1, 0],
    [2, 2 ** 32 - 2],
    [3, 2 ** 32 - 1],
    [200, 2 ** 40],
    [2e9, 7],
    [4, 5],
  ];
  for (const [number, place] of put) places.set(number, place);
  expect(put.map(([number]) => [number, places.get(number)])).toEqual(put);
  expect([0, 5, 201, -1].map((number) => places.get(number))).toEqual([undefined, undefined, undefined, undefined]);
});
