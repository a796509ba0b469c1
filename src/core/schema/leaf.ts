import * as z from 'zod';
import type { Code } from '../diagnostics/catalogue.ts';
import type { Reading, YamlScalar } from '../yaml/tree.ts';
import { taking, type JsonSchema } from './input.ts';
import { placedOf, type Leaf, type Placed } from './shape.ts';

/**
 * The kinds of single values that keys take. Each reports what is wrong inside itself and still gives something, so
 * that the rest of the file is read and checked too. `description` reaches the reference and the JSON Schema.
 */
export function leaf<T>(what: string, read: (scalar: YamlScalar, reading: Reading) => T, json: JsonSchema = SCALAR) {
  // One transform, not a check piped into one: files are mostly leaves, and each pipe costs as much as the leaf.
  const schema = z.transform((given: unknown, context): T => {
    if (typeof given === 'function') {
      const { node, reading } = (given as Leaf)();
      return read(node, reading);
    }
    context.issues.push({ code: 'custom', message: what, input: given });
    return z.NEVER;
  });
  return taking(schema, () => ({ what, json }));
}

/** A single value: what stands as a number or `true` in YAML is a text all the same where a text is meant. */
export const SCALAR: JsonSchema = { type: ['string', 'number', 'boolean'] };

/** Any value, as one that computes from what is projected. */
export function anyOf<T>(what: string, json: JsonSchema, read: (placed: Placed) => T) {
  return taking(
    z.transform((projected: unknown) => read(placedOf(projected))),
    () => ({ what, json }),
  );
}

export function reportAt(
  reading: Reading,
  { range }: YamlScalar,
  code: Code,
  message: string,
  advice?: string,
  instead?: string,
): void {
  const fix = instead === undefined ? {} : { fix: { range, text: instead } };
  reading.report({ code, range, message, ...(advice === undefined ? {} : { advice }), ...fix });
}
