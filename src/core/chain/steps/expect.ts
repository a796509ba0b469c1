import * as z from 'zod';
import { expression, word } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import type { Expectation } from '../model.ts';

const condition = () => expression('an expression that must be true');

/** An expression, or one with the reason why it must hold. */
const expectation = z.union([
  condition().transform((each): Expectation => ({ expression: each, because: undefined })),
  mapping({
    that: condition().describe('An expression that must be true.'),
    because: word('a reason').optional().describe('Why it must hold; part of the message when it does not.'),
  }).transform((given): Expectation => ({ expression: given.that, because: given.because?.text })),
]);

/** The list under `expect`. Every entry is tried, and all failures are shown. */
export const expectations = () => z.array(expectation);
