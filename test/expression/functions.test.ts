import { exampleBody } from '../../src/core/expression/functions/definition.ts';
import { functions } from '../../src/core/expression/functions/list.ts';
import { evaluated } from '../support/expressions.ts';

describe('every function keeps what its reference says', () => {
  test.each(functions.map((each) => [each.name, each] as const))(
    '%s',
    (_name, { example: [expression, result], about }) => {
      expect(about).toMatch(/[.;]$/);
      expect(evaluated(expression, exampleBody).value).toEqual(evaluated(result, exampleBody).value);
    },
  );

  test('no two share a name or another word for it', () => {
    const words = functions.flatMap(({ name, alias }) => [name, ...(alias ?? [])]);
    expect(words.filter((word, i) => words.indexOf(word) !== i)).toEqual([]);
  });
});
