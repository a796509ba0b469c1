import { Seen } from '../../src/core/engine/seen.ts';
import fc from 'fast-check';
import { readChain } from '../../src/core/chain/chain-file.ts';
import { streamableLists } from '../../src/core/chain/streamable-lists.ts';
import { readTable } from '../../src/core/chain/tables.ts';
import { Gathered } from '../../src/core/engine/gathered.ts';
import { ListBuilder, MAX_HELD } from '../../src/core/value/spilled-list.ts';
import { DateTime, ExactNumber, SpilledList, piecesOf, type Items, type Value } from '../../src/core/value/value.ts';
import { coreRun } from '../support/engine.ts';
import { memoryLines } from '../support/hosts.ts';

async function all(items: Items): Promise<readonly Value[]> {
  const found: Value[] = [];
  for await (const piece of piecesOf(items)) found.push(...piece);
  return found;
}

const chainOf = (text: string) => readChain({ path: 'c.chain.yaml', text }).chain!;
const input = chainOf('inputs:\n  t: { type: table, charset: utf-8 }\nsteps: []\n').inputs[0]!;

/** A text as UTF-8 in pieces of these sizes, and the rest. */
const cut = (text: string, sizes: readonly number[], name: string) => ({
  name,
  chunks: async function* () {
    let rest = Buffer.from(text);
    for (const size of sizes) {
      yield rest.subarray(0, size);
      rest = rest.subarray(size);
    }
    yield rest;
  },
});

describe('a table reads the same however its bytes are cut', () => {
  const cell = fc.string({ unit: fc.constantFrom('a', '"', '\\', ',', '[', ']', '{', '}', '\n', ' ', 'å', '🚢', '5') });
  const rows = fc.array(fc.record({ x: cell, y: cell }), { minLength: 1, maxLength: 8 });
  const sizes = fc.array(fc.integer({ min: 0, max: 9 }), { maxLength: 40 });
  const forms: [name: string, text: (rows: readonly { x: string; y: string }[]) => string][] = [
    ['t.json', (list) => JSON.stringify(list)],
    ['spread.json', (list) => `\ufeff${JSON.stringify(list, null, 3)}\n`],
    ['t.ndjson', (list) => list.map((row) => `${JSON.stringify(row)}\n`).join('')],
    [
      't.csv',
      (list) => ['x,y', ...list.map(({ x, y }) => [x, y].map((each) => `"${each.replaceAll('"', '""')}"`))].join('\n'),
    ],
  ];
  test.each(forms)('%s', async (name, textOf) => {
    await fc.assert(
      fc.asyncProperty(rows, sizes, async (list, pieces) => {
        expect(await readTable(cut(textOf(list), pieces, name), input, 'UTC')).toEqual({ rows: list });
      }),
    );
  });

  test.each([
    ['t.json', '[{"a": 1}, {"a": }]', /at character 18/],
    ['t.json', '[{"a": 1}', /not closed/],
    ['t.json', '[{"a": 1}] x', /expected the end/],
    ['t.json', '{"a": [1]}', /is an object, not an array/],
    ['t.json', '[1]', /not an array of rows/],
    ['t.ndjson', '{"a": 1}\n{"a": \n', /in line 2/],
    ['t.csv', 'a,b\n1\n', /the row that ends in line 2 has 1 cell/],
    ['t.csv', 'a\n"x', /a quote is never closed/],
  ])('%s with %j is told', async (name, text, message) => {
    expect(JSON.stringify(await readTable(cut(text, [3, 4], name), input, 'UTC'))).toMatch(message);
  });

  test('bytes that are no UTF-8 are told with their place', async () => {
    const source = {
      name: 't.csv',
      chunks: async function* () {
        yield Buffer.from([97, 10]);
        yield Buffer.from([98, 0xff, 10]);
      },
    };
    expect(await readTable(source, input, 'UTC')).toMatchObject({
      diagnostics: [{ code: 'not-decodable', message: expect.stringMatching(/byte 4 begins ff 0a/) as string }],
    });
  });
});

describe('a long list', () => {
  test('is gone over again and again; what no line can hold, and what is secret, comes back too', async () => {
    const items: Value[] = Array.from({ length: MAX_HELD + 20 }, (_, i) => ({ i }));
    items[3] = new DateTime(0);
    items[MAX_HELD + 2] = { x: 'hush' };
    items[MAX_HELD + 3] = new ExactNumber(1.1, '1.10');
    const lines = memoryLines();
    const builder = new ListBuilder(() => lines);
    items.forEach((each) => builder.add(each));
    const list = builder.finish();
    expect(list).toBeInstanceOf(SpilledList);
    expect((list as SpilledList).file.masked).toBe(true);
    expect(lines.lines.join()).not.toContain('hush');
    for (let round = 0; round < 2; round++) expect(await all(list)).toEqual(items);
  });

  test('is held where something else reads it than loops and rows:', () => {
    const text = (rest: string) =>
      `inputs: { a: { type: table }, b: { type: table } }\nsteps:\n  - each: x in a\n    gather: { g: "{x.id}" }\n${rest}`;
    const names = (rest: string) => [...streamableLists(chainOf(text(rest)))].sort().join();
    expect(names('')).toBe('a,b,g');
    expect(names('  - write: w.csv\n    rows: g\n')).toBe('a,b,g');
    expect(names('  - say: "{length(a)}"\n')).toBe('b,g');
    expect(names('  - each: y in b[?@.id]\n    gather: { h: "{y.id}" }\n')).toBe('a,g,h');
    expect(names('outputs: [g]\n')).toBe('a,b');
  });

  test('gathered, and gone over by a loop behind', async () => {
    const { exit, outputs } = await coreRun(`
steps:
  - let: { list: 'range(0, ${MAX_HELD + 1})' }
  - each: x in list
    gather: { g: "{loop.number}" }
  - each: y in g
    gather: { last: "{y}" }
outputs: { count: length(last), end: "last[-1]" }
`);
    expect({ exit, outputs }).toEqual({ exit: 0, outputs: { count: MAX_HELD + 1, end: MAX_HELD + 1 } });
  });
});

test('what is gathered keeps the order in which items were begun', () => {
  fc.assert(
    fc.property(
      fc.shuffledSubarray([...Array(12).keys()], { minLength: 12 }),
      fc.integer({ min: 0, max: 11 }),
      (order, bad) => {
        const gathered = new Gathered(undefined);
        for (const place of order) gathered.put(place, place === bad ? undefined : place);
        expect(gathered.finish()).toEqual([...Array(12).keys()].filter((place) => place !== bad));
      },
    ),
  );
});

test('numbers of digests, beyond the first size of their table', () => {
  const seen = new Seen();
  const digest = (i: number) => Buffer.from(`${i % 4000}`.padStart(12, 'x'));
  for (let i = 0; i < 8000; i++) expect(seen.swap(digest(i), (count) => count + 1)).toBe(i < 4000 ? 0 : 1);
});
