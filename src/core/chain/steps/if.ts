import { expression } from '../../schema/leaves.ts';
import { stepReader } from './definition.ts';

export const ifStep = stepReader({
  key: 'if',
  about: 'A branch: some steps when a condition holds, others when it does not.',
  shape: (steps) => ({
    if: expression('a condition').describe('The condition.'),
    steps: steps().describe('The steps that run when it holds.'),
    otherwise: steps().optional().describe('The steps that run when it does not.'),
  }),
  read: (given) => ({
    kind: 'if',
    condition: given.if,
    steps: given.steps,
    otherwise: given.otherwise ?? [],
  }),
});
