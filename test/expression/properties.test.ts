import { growthOf } from '../support/steps.ts';
import fc from 'fast-check';
import { evaluate } from '../../src/core/expression/evaluate.ts';
import { frameOf } from '../../src/core/expression/frame.ts';
import type { Node } from '../../src/core/expression/model.ts';
import { parseExpression } from '../../src/core/expression/parse.ts';
import { printExpression } from '../../src/core/expression/print.ts';
import type { Value } from '../../src/core/value/value.ts';

const RANDOM_TEXTS = Number(process.env['SOAK'] ?? 1000);

/** Expressions as texts, grown from the grammar. */
const { expression } = fc.letrec<{ expression: string; value: string; path: string; condition: string }>((tie) => ({
  path: fc
    .tuple(
      fc.constantFrom('$', 'due', 'vessel', '(a ?? b)', 'value($..x)'),
      fc.array(
        fc.oneof(
          fc.constantFrom(
            '.id',
            "['content-type']",
            '[0]',
            '[-1]',
            '[1:3]',
            '[::2]',
            '.*',
            '..id',
            '[*]',
            "['a', 'b', 0]",
          ),
          tie('condition').map((condition) => `[?${condition}]`),
        ),
        { maxLength: 2 },
      ),
    )
    .map(([start, segments]) => start + segments.join('')),
  value: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    fc.constantFrom('1', '2.5', "'text'", 'true', 'null', '1.5s', '64KiB', '12345678901234567890', '[]'),
    fc.constantFrom('@.a', '$.b', 'due', 'length($.a)', "['a', 1]"),
    fc
      .tuple(tie('value'), fc.constantFrom('+', '-', '*', '/', '%'), tie('value'))
      .map(([a, op, b]) => `(${a} ${op} ${b})`),
    tie('path').map((path) => `-length(${path})`),
  ),
  condition: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    fc.constantFrom("@.state == 'x'", '$.n > 1', 'exists(@.a)', "match($.a, '[a-z]+')", 'vessel.id in [1, 2]'),
    fc.tuple(tie('condition'), fc.constantFrom('&&', '||'), tie('condition')).map((parts) => parts.join(' ')),
    tie('condition').map((condition) => `!(${condition})`),
  ),
  expression: fc.oneof(tie('path'), tie('value'), tie('condition')),
}));

/** A tree without its places. */
const bare = (node: Node): unknown =>
  JSON.parse(
    JSON.stringify(node, (key, value: unknown) =>
      /range/i.test(key) ? undefined : typeof value === 'bigint' ? String(value) : value,
    ),
  );

test('an expression printed and parsed again gives the same tree', () => {
  fc.assert(
    fc.property(expression, (text) => {
      const { tree } = parseExpression(text);
      fc.pre(tree !== undefined);
      const printed = parseExpression(printExpression(tree!));
      expect(bare(printed.tree!)).toEqual(bare(tree!));
    }),
    { numRuns: RANDOM_TEXTS },
  );
});

const sign = fc.constantFrom(
  ...'$@.[]()?*:,!=<>&|+-/%{}\'"\\ abin019_smh\n'.split(''),
  '..',
  '==',
  'in ',
  '$.a',
  '[?@',
  '??',
  'length(',
);

test('no text makes the parser throw anything, or keeps it busy', () => {
  fc.assert(
    fc.property(
      fc.oneof(
        fc.string({ maxLength: 200 }),
        fc.array(sign, { maxLength: 300 }).map((signs) => signs.join('')),
      ),
      (text) => {
        const { tree, problems } = parseExpression(text);
        expect(tree !== undefined || problems.length > 0).toBe(true);
        for (const { range } of problems) expect(range[0]).toBeLessThanOrEqual(range[1]);
      },
    ),
    { numRuns: RANDOM_TEXTS },
  );
  for (const unit of ['[?@', '((', '$..*', '!', '-', "'", '1+', 'a.b', '[', '$[?@.a==', '??', 'f(']) {
    const growth = growthOf((size) => parseExpression(unit.repeat(size)), 500);
    expect([unit, growth < 2.5]).toEqual([unit, true]);
  }
});

test('evaluation gives a value or a problem, and leaves its input alone', () => {
  const body: Value = { a: 'x', b: [1, { id: 2, state: 'x' }], n: 3, state: null };
  const before = JSON.stringify(body);
  fc.assert(
    fc.property(expression, (text) => {
      const { tree, problems } = parseExpression(text);
      fc.pre(tree !== undefined && problems.length === 0);
      const outcome = evaluate(
        tree!,
        frameOf(body, (name) => (name === 'due' ? [body] : undefined)),
      );
      expect(outcome).toBeDefined();
      expect(JSON.stringify(body)).toBe(before);
    }),
    { numRuns: RANDOM_TEXTS },
  );
});
