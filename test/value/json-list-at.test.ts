import fc from 'fast-check';
import { ListFault, ListFinder } from '../../src/core/value/json-list-at.ts';

function found(text: string, path: readonly (string | number)[], cuts: readonly number[] = []): string {
  const finder = new ListFinder(path);
  const ends = [...new Set(cuts.map((cut) => cut % (text.length + 1)))].sort((a, b) => a - b);
  let list = '';
  [0, ...ends].forEach((from, i) => (list += finder.add(text.slice(from, ends[i] ?? text.length))));
  finder.end();
  return finder.hasFound ? list : 'none';
}

const json = fc.json({ maxDepth: 4, stringUnit: 'binary' });
const items = fc.array(json, { maxLength: 5 }).map((all) => `[${all.join(' ,\n')}]`);
const name = fc.oneof(fc.string({ maxLength: 6, unit: 'binary' }), fc.constantFrom('', '"', '\\', '\\"', 'a"b', '}]'));
const key = fc.oneof(fc.nat(2), name);

test('the text of a list is given as it stands, however deep it is and wherever the pieces end', () => {
  fc.assert(
    fc.property(
      items,
      fc.array(key, { maxLength: 4 }),
      json,
      fc.array(fc.nat(), { maxLength: 8 }),
      (list, path, other, cuts) => {
        const text = [...path].reverse().reduce((inner: string, each) => {
          if (typeof each === 'number') return `[${`${other},`.repeat(each)} ${inner}, ${other}]`;
          return `{${JSON.stringify(`${each}-`)}:${other}, ${JSON.stringify(each)} : ${inner} ,"~":${other}}`;
        }, list);
        expect(found(text, path, cuts)).toBe(list);
      },
    ),
  );
});

test.each([
  ['{"vessels":{"a":1}}', ['vessels'], 'none'],
  ['{"vessels":"[1]"}', ['vessels'], 'none'],
  ['{"quays":[1],"vessels":[2]}', ['vessels'], '[2]'],
  ['{"n\\u0061mes":[1]}', ['names'], '[1]'],
  ['{"a":[[1],[2,3]]}', ['a', 1], '[2,3]'],
  ['{"vessels":[1],"vessels":[2]}', ['vessels'], '[1]'],
  ['[]', [], '[]'],
] as const)('%s at %j: %s', (text, path, list) => {
  expect(found(text, path)).toBe(list);
});

test.each(['{"vessels":[1', '{"vessels":[1}', '', '[1]]', '{"a":1}{"b":2}'])('%s is not complete', (text) => {
  expect(() => found(text, ['vessels'])).toThrow(ListFault);
});
