import fc from 'fast-check';
import { nameFor, propose, search } from '../../src/core/path/propose.ts';
import type { Value } from '../../src/core/value/value.ts';
import { evaluated } from '../support/expressions.ts';

const BODY: Value = {
  total: 2,
  arrivals: [
    { id: 'A-1', vessel: 'KM 204/5', 'due-at': '06:10', tags: ['deep'] },
    { id: 'A-2', vessel: 'SV 118/2', 'due-at': '07:30', tags: ['deep', 'late'] },
  ],
};

const paths = (wanted: string) => search(BODY, wanted).hits.map((hit) => propose(BODY, hit));

describe('searching', () => {
  test.each([
    ['SV 118/2', ['$.arrivals[1].vessel']],
    ['sv 118', ['$.arrivals[1].vessel']],
    ['2', ['$.total', '$.arrivals[0].vessel', '$.arrivals[1].id', '$.arrivals[1].vessel']],
    ['vessel', ['$.arrivals[0].vessel', '$.arrivals[1].vessel']],
    ['late', ['$.arrivals[1].tags[1]']],
    ['nowhere', []],
  ])('%s', (wanted, expected) => expect(paths(wanted).map(({ exact }) => exact)).toEqual(expected));

  test('the ways to a value', () => {
    expect(paths('07:30')).toEqual([
      {
        exact: "$.arrivals[1]['due-at']",
        all: "$.arrivals[*]['due-at']",
        byField: "$.arrivals[?@.id == 'A-2']['due-at']",
      },
    ]);
    expect(paths('total')).toEqual([{ exact: '$.total', all: undefined, byField: undefined }]);
  });

  test('a name to keep it under', () => {
    expect(search(BODY, '07:30').hits.map(nameFor)).toEqual(['due_at']);
    expect(search({ nextCursor: { '9': 'x' } }, 'x').hits.map(nameFor)).toEqual(['_9', 'next_cursor']);
  });
});

test('every proposed path finds the value', () => {
  const leaf = fc.constantFrom<Value>('x', 'y', "it's", 1, true, null);
  const name = fc.constantFrom('id', 'a', 'b c', '__proto__', 'constructor', "q'");
  const { tree } = fc.letrec<{ tree: Value }>((tie) => ({
    tree: fc.oneof(
      { depthSize: 'small' },
      leaf,
      fc.array(tie('tree'), { maxLength: 4 }),
      fc.array(fc.tuple(name, tie('tree')), { maxLength: 4 }).map((entries) => Object.fromEntries(entries) as Value),
    ),
  }));
  fc.assert(
    fc.property(tree, fc.constantFrom('x', 'y', '1', 'a', 'id'), (body, wanted) => {
      for (const hit of search(body, wanted).hits) {
        const { exact, all, byField } = propose(body, hit);
        expect(evaluated(exact, body).value).toEqual(hit.value);
        if (all !== undefined) expect(evaluated(all, body).value).toContainEqual(hit.value);
        if (byField !== undefined) expect(evaluated(byField, body).value).toEqual([hit.value]);
      }
    }),
  );
});
