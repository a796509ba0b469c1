import * as z from 'zod';
import { expression } from '../../schema/leaves.ts';
import type { Expectation } from '../model.ts';

/** The list under `expect`: each entry is an expression that must be true. */
export const expectations = () =>
  z.array(
    expression('an expression that must be true').transform((each): Expectation => ({
      kind: 'expression',
      expression: each,
    })),
  );
