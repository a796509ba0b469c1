import { expression, named } from '../../schema/leaves.ts';
import { stepKind } from './definition.ts';
import { expressionPart } from '../parts.ts';

export const remember = stepKind({
  key: 'remember',
  about: 'Keeps values for the next run of this chain at this deployment, once this run has passed.',
  shape: () => ({
    remember: named(expression()).describe('Values by name; the next run reads them as remembered.NAME.'),
  }),
  read: (given) => ({ kind: 'remember', names: given.remember }),
  parts: ({ names }) => names.flatMap((entry) => expressionPart(entry.value)),
  sourceOf: ({ names }) => names[0]?.value.source,
});
