import type * as z from 'zod';
import { named, type Named } from '../schema/leaves.ts';
import { wholeNumber } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { StatusArm, Step } from './model.ts';

/** `on-status` of a call: what is done when it is answered with a status. */
export const onStatus = (steps: () => z.ZodType<readonly Step[]>) =>
  named(
    mapping({
      steps: steps().describe('The steps to run then.'),
      again: wholeNumber('a number of times')
        .optional()
        .describe('How many times the call is sent anew behind them. Default: 0.'),
    }),
  );

type Given = Named<Readonly<{ steps: readonly Step[]; again?: number | undefined }>>;

/** The arms of a call, each for one status. */
export function armsOf(given: Given = [], report: (problem: Problem) => void): readonly StatusArm[] {
  return given.flatMap(({ name, nameRange: range, value: { steps, again = 0 } }) => {
    if (/^[1-5]\d\d$/.test(name)) return [{ status: Number(name), steps, again }];
    const message = `"${name}" is not a status`;
    report({ code: 'wrong-type', range, message, advice: 'Write one such as 409.' });
    return [];
  });
}
