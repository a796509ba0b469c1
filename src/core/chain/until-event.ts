import * as z from 'zod';
import { expression } from '../schema/leaves.ts';
import { duration, wholeNumber } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import type { UntilEvent } from './model.ts';

const AT_MOST = 1000;
const WITHIN_MS = 5 * 60_000;

/** A condition, or one with how many events and how much time there may be until it holds. */
export const untilEvent = () =>
  z.union([
    expression('a condition').transform((until): UntilEvent => ({ until, maxEvents: AT_MOST, withinMs: WITHIN_MS })),
    mapping({
      until: expression('a condition').describe(
        'The condition that ends the reading; $ is the array of events so far.',
      ),
      'max-events': wholeNumber('a number of events')
        .optional()
        .describe('The largest number of events. Default: 1000.'),
      within: duration().optional().describe('The time limit. Default: 5m.'),
    }).transform(({ until, within, 'max-events': maxEvents }): UntilEvent => ({
      until,
      maxEvents: maxEvents ?? AT_MOST,
      withinMs: within ?? WITHIN_MS,
    })),
  ]);
