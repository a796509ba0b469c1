import { expression, named } from '../../schema/leaves.ts';
import { stepReader } from './definition.ts';

export const letStep = stepReader({
  key: 'let',
  about: 'Computes variables.',
  shape: () => ({
    let: named(expression()).describe('Variables by name; each may read those before it.'),
  }),
  read: (given) => ({ kind: 'let', names: given.let }),
});
