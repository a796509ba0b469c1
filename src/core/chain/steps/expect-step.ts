import { expectationPart, expectations } from './expect/list.ts';
import { stepKind } from './definition.ts';

export const expectStep = stepKind({
  key: 'expect',
  about: 'Expectations on values that were kept, without a response.',
  shape: () => ({ expect: expectations().describe('What must hold. Forms that look at a value name it by of.') }),
  read: (given) => ({ kind: 'expect', expect: given.expect }),
  parts: ({ expect }) => expect.map((each) => expectationPart(each, { key: 'expect' })),
  sourceOf: ({ expect: [first] }) => first && (first.form === 'that' ? first.expression.source : first.source),
});
