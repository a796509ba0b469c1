import { expression } from '../../schema/leaves.ts';
import { stepKind } from './definition.ts';
import { conditionPart } from '../parts.ts';

export const ifStep = stepKind({
  key: 'if',
  about: 'A branch: steps to run if a condition is true, and others if it is false.',
  shape: (steps) => ({
    if: expression('a condition').describe('The condition.'),
    steps: steps().describe('The steps to run if it is true.'),
    otherwise: steps().optional().describe('The steps to run if it is false.'),
  }),
  read: (given) => ({
    kind: 'if',
    condition: given.if,
    steps: given.steps,
    otherwise: given.otherwise ?? [],
  }),
  parts: ({ condition, steps, otherwise }) => [
    ...conditionPart(condition),
    { sort: 'arms', condition, arms: [steps, otherwise] },
  ],
  sourceOf: ({ condition }) => condition.source,
});
