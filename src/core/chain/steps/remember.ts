import { expression, named } from '../../schema/leaves.ts';
import { stepReader } from './definition.ts';

export const remember = stepReader({
  key: 'remember',
  about: 'Keeps values for the next run of this chain at this deployment, once this run has passed.',
  shape: () => ({
    remember: named(expression()).describe('Values by name; the next run reads them as remembered.NAME.'),
  }),
  read: (given) => ({ kind: 'remember', names: given.remember }),
});
