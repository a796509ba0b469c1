import { expression, named } from '../../schema/leaves.ts';
import { stepKind } from './definition.ts';
import { bindingParts } from '../parts.ts';

export const letStep = stepKind({
  key: 'let',
  about: 'Computes variables.',
  shape: () => ({
    let: named(expression()).describe('Variables by name; each may read those before it.'),
  }),
  read: (given) => ({ kind: 'let', names: given.let }),
  parts: (step) => bindingParts(step.names, { what: 'let', by: 'computed by let' }),
  sourceOf: ({ names }) => names[0]?.value.source,
});
