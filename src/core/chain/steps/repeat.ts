import { expression, named, word } from '../../schema/leaves.ts';
import { duration, pause, wholeNumber } from '../../schema/measures.ts';
import { stepReader } from './definition.ts';

/** Rounds unless said. */
const AT_MOST = 100;

export const repeat = stepReader({
  key: 'repeat',
  about: 'Its steps again and again, until a condition on what they keep holds.',
  shape: (steps) => ({
    repeat: word('a name').describe('The name of the step.'),
    steps: steps().describe('The steps of a round.'),
    until: expression('a condition').optional().describe('Ends the rounds when it holds.'),
    'give-up-when': expression('a condition').optional().describe('A state from which it cannot recover.'),
    every: pause().optional().describe('The pause between two rounds: 2s, or 1s to 30s, doubling.'),
    within: duration().optional().describe('No round starts later than this after the first.'),
    'max-rounds': wholeNumber('a number of rounds')
      .optional()
      .describe('How many rounds there may be; 100 unless said.'),
    carry: named(expression()).optional().describe('Names that go from round to round, with their first values.'),
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
});
