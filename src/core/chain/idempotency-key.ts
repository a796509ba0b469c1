import * as z from 'zod';
import { taking } from '../schema/input.ts';
import { text } from '../schema/leaves.ts';
import type { Leaf } from '../schema/shape.ts';
import { scalarValue } from '../yaml/scalar.ts';

/** `true` for a key that is made, or a text that is one. */
export const idempotencyKey = () =>
  z.union([
    taking(
      z.custom<Leaf>((given) => typeof given === 'function' && scalarValue((given as Leaf)().node) === true, {
        message: 'true',
      }),
      () => ({ what: 'true', json: { const: true } }),
    ).transform(() => true as const),
    text('a string'),
  ]);
