import { expression } from '../../schema/leaves.ts';
import { stepReader } from './definition.ts';

export const ifStep = stepReader({
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
});
