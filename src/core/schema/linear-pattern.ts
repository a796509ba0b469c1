import { compilePattern } from '../expression/pattern/pattern.ts';

/** What the validator of JSON Schemas asks of a pattern. */
type Tested = Readonly<{ test(text: string): boolean; toString(): string }>;

/**
 * A pattern of a JSON Schema (ECMA-262) on the linear engine, so that no text takes longer than its length. What would need
 * backtracking lets every text through.
 */
function linear(source: string): Tested {
  const { pattern } = compilePattern(source, 'ecma');
  return { test: (text) => pattern?.occursIn(text) ?? true, toString: () => `/${source}/u` };
}

/** As the validator takes it in place of its own; the code is only for schemas that are written out, which none is. */
export const linearPatterns = Object.assign(linear, { code: linear.name });
