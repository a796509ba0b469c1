import { expression } from '../schema/leaves.ts';
import { duration, pause } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import type { Poll } from './model.ts';

const EVERY = { firstMs: 1000, lastMs: 30_000 };
const WITHIN_MS = 5 * 60_000;

/** How a response is looked at again and again, until something holds of it. */
export const poll = () =>
  mapping({
    until: expression('a condition').describe('Looking ends when this holds of the response.'),
    'give-up-when': expression('a condition').optional().describe('A state from which it cannot recover.'),
    every: pause()
      .optional()
      .describe('The pause between two looks: 2s, or doubling as in 1s to 30s, which is the default.'),
    within: duration().optional().describe('No look starts later than this after the first; 5m unless said.'),
    progress: expression('a number from 0 to 100').optional().describe('How far it is, from 0 to 100; drives the bar.'),
  }).transform((given): Poll => ({
    until: given.until,
    giveUpWhen: given['give-up-when'],
    every: given.every ?? EVERY,
    withinMs: given.within ?? WITHIN_MS,
    progress: given.progress,
  }));
