import { expression, named, word } from '../../schema/leaves.ts';
import { duration, pause, wholeNumber } from '../../schema/measures.ts';
import { stepKind } from './definition.ts';
import { bindingParts, conditionPart } from '../parts.ts';

/** Rounds unless said. */
const AT_MOST = 100;

export const repeat = stepKind({
  key: 'repeat',
  about: 'Repeats its steps until a condition on the names that they keep is true.',
  shape: (steps) => ({
    repeat: word('a name').describe('The name of the step.'),
    steps: steps().describe('The steps of a round.'),
    until: expression('a condition').optional().describe('The condition that ends the rounds.'),
    'give-up-when': expression('a condition').optional().describe('A state from which the goal cannot be reached.'),
    every: pause().optional().describe('The pause between two rounds: 2s, or 1s to 30s, doubling.'),
    within: duration().optional().describe('The time limit: no round starts later than this after the first.'),
    'max-rounds': wholeNumber('a number of rounds').optional().describe('The largest number of rounds. Default: 100.'),
    carry: named(expression()).optional().describe('Names that pass from round to round, with their first values.'),
  }),
  read: (given) => ({
    kind: 'repeat',
    name: given.repeat.text,
    nameSource: given.repeat,
    steps: given.steps,
    until: given.until,
    giveUpWhen: given['give-up-when'],
    every: given.every,
    withinMs: given.within,
    maxRounds: given['max-rounds'] ?? AT_MOST,
    carry: given.carry ?? [],
  }),
  parts: ({ steps, until, giveUpWhen, carry }) => [
    ...bindingParts(carry, { what: 'carry', by: 'carried', at: { key: 'carry' } }),
    {
      sort: 'scope',
      of: 'round',
      carried: carry.map(({ name }) => name),
      parts: [
        { sort: 'steps', steps, order: 'one-by-one' },
        ...[giveUpWhen, until].flatMap((condition) => conditionPart(condition, { key: 'until' })),
      ],
    },
  ],
  nameOf: ({ name }) => name,
});
