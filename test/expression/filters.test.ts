import fc from 'fast-check';
import { compile } from '../../src/core/expression/compile.ts';
import { frameOf } from '../../src/core/expression/frame.ts';
import { parseExpression } from '../../src/core/expression/parse.ts';
import { ExactNumber, type Value } from '../../src/core/value/value.ts';

const member = fc.constantFrom<Value | undefined>(
  'x',
  'y',
  '',
  1,
  2.5,
  0,
  null,
  true,
  12345678901234567890n,
  new ExactNumber(1, '1.0'),
  ['x'],
  { b: 'x' },
  { b: 1 },
  { constructor: 'x', b: 'x' },
  undefined,
);

const item = fc.oneof(
  {
    weight: 8,
    arbitrary: fc
      .record({ a: member, b: member })
      .map((each) => Object.fromEntries(Object.entries(each).filter(([, value]) => value !== undefined)) as Value),
  },
  { weight: 1, arbitrary: fc.constantFrom<Value>(null, 'x', 1, [1], [], { a: { b: 'x' }, length: 1 }) },
);

const path = fc.constantFrom('@.a', '@.b', '@.a.b', "@['a']", '@.length', '@.constructor', '@.toString');
const operator = fc.constantFrom('==', '!=', '<', '<=', '>', '>=');
const operand = fc.constantFrom('1', '2.5', "'x'", "'\\u2028\"'", 'name', 'other', 'null', 'true');
const comparison = fc.tuple(path, operator, operand).map((parts) => parts.join(' '));
const condition = fc.oneof(
  comparison,
  fc.tuple(comparison, fc.constantFrom('&&', '||'), comparison).map((parts) => parts.join(' ')),
  fc.tuple(comparison, comparison, comparison).map(([a, b, c]) => `(${a} || ${b}) && ${c}`),
);

test('the loop that is generated for long lists finds what the rules find', () => {
  fc.assert(
    fc.property(condition, fc.array(item, { minLength: 1, maxLength: 12 }), (text, items) => {
      const { tree, problems } = parseExpression(`due[?${text}]`);
      expect(problems).toEqual([]);
      const found = (due: Value) =>
        compile(tree!)(
          frameOf(undefined, (name) =>
            name === 'due' ? due : name === 'name' ? 'x' : name === 'other' ? 1 : undefined,
          ),
        );
      // Behind many objects that no filter of these finds, the items are gone through by the generated loop.
      const short = found(items);
      const filler: Value[] = Array.from({ length: 300 }, () => ({}));
      const emptyFound = (found([{}]) as Value[]).length;
      expect((found([...filler, ...items]) as Value[]).slice(emptyFound * 300)).toEqual(short);
    }),
    { numRuns: 1000 },
  );
});
