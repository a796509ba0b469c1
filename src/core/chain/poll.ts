import { expression } from '../schema/leaves.ts';
import { duration, pause } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import type { Poll } from './model.ts';

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
    progress: expression('a number from 0 to 100').optional().describe('The progress from 0 to 100, for the bar.'),
  }).transform((given): Poll => ({
    until: given.until,
    giveUpWhen: given['give-up-when'],
    every: given.every ?? EVERY,
    withinMs: given.within ?? WITHIN_MS,
    progress: given.progress,
  }));
