import { expression } from '../schema/leaves.ts';
import { duration, pause, wholeNumber, type Pause } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import type { Expression } from '../schema/leaves.ts';

/** How a response is looked at again until something holds of it; times in milliseconds. */
export type Poll = Readonly<{
  until: Expression;
  /** Polls in a row that may fail. */
  tolerate: number;
  giveUpWhen: Expression | undefined;
  every: Pause;
  withinMs: number;
  progress: Expression | undefined;
}>;

const EVERY = { firstMs: 1000, lastMs: 30_000 };
const WITHIN_MS = 5 * 60_000;

/** How a response is looked at again and again, until something holds of it. */
export const poll = () =>
  mapping({
    until: expression('a condition').describe('The condition that ends the polling.'),
    'give-up-when': expression('a condition').optional().describe('A state from which the goal cannot be reached.'),
    every: pause().optional().describe('The pause between two polls: 2s, or 1s to 30s, doubling. Default: 1s to 30s.'),
    within: duration()
      .optional()
      .describe('The time limit: no poll starts later than this after the first. Default: 5m.'),
    tolerate: wholeNumber('a number of polls')
      .optional()
      .describe('How many polls in a row may fail: no response, a status other than 2xx, no JSON. Default: 0.'),
    progress: expression('a number from 0 to 100').optional().describe('The progress from 0 to 100, for the bar.'),
  }).transform((given): Poll => ({
    until: given.until,
    giveUpWhen: given['give-up-when'],
    every: given.every ?? EVERY,
    withinMs: given.within ?? WITHIN_MS,
    tolerate: given.tolerate ?? 0,
    progress: given.progress,
  }));
