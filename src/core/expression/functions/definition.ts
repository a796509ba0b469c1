import type { Problem } from '../../diagnostics/problem.ts';
import type { Host } from '../host.ts';
import type { ValueType, Maybe, Value } from '../../value/value.ts';

/**
 * One parameter of a function.
 *
 * - `value`: one value; nothing never reaches the function.
 * - `list`: a list, or a path that may find many.
 * - `nodes`: a path; the function gets the list of what it finds.
 * - `presence`: anything; the function gets whether it found something.
 * - `maybe`: a value or nothing.
 * - `condition`: true or false.
 * - `item`: an expression over `@`; the function gets it as an `ItemExpression` and calls it for each item.
 * - `itemCondition`: the same for a condition.
 * - `private`: a value that is not recorded, and whose random parts are drawn from the system.
 * - `lazy`: an expression that may never be needed; the function gets it as a `Lazy`.
 */
export type Parameter = Readonly<{
  name: string;
  sort: 'value' | 'list' | 'nodes' | 'presence' | 'maybe' | 'condition' | 'item' | 'itemCondition' | 'private' | 'lazy';
  optional?: true;
  /** In words, for `takes ...`: `a text`. */
  what: string;
  /** Whether a value is of the right kind; without it every value is. */
  accepts?: (value: Value) => boolean;
  /** What is wrong with a literal argument beyond its kind, found before anything is sent. */
  examine?: (value: Value) => Omit<Problem, 'range'> | undefined;
}>;

/** An expression over `@`, to be evaluated for one item; nothing for an item is `undefined`. */
export type ItemExpression = (item: Value) => Maybe;
export type Lazy = () => Maybe;
export type Argument = Maybe | ItemExpression | Lazy | Host;

export type FunctionDefinition = Readonly<{
  name: string;
  parameters: readonly Parameter[];
  /** `condition` in filters and out of them; else the kind of the result, when it is always the same. */
  result: 'condition' | ValueType | undefined;
  /** One sentence for the reference. */
  about: string;
  /** When it cannot give a result, beside arguments of a wrong kind. */
  errors?: string;
  /** Words that people look for when they mean this function. */
  alias?: readonly string[];
  /** An expression over `exampleBody` and what it gives, run as a test. */
  example: readonly [expression: string, result: string];
  /** Whether it asks for something around the expression; it then gets the `Host` before its arguments. */
  needsHost?: true;
  /** Whether it gives another value each time, so that what it gave is recorded. */
  volatile?: true;
  /** Whether it reads the response beside `$`, and so means nothing without one. */
  ofResponse?: true;
  /**
   * Gets what its parameters have let through, so it declares its own kinds. Throws `FunctionFault` when it cannot; inside a filter that is nothing for the item.
   */
  evaluate(...args: never[]): Maybe;
}>;

/** A function cannot give a result for its arguments. */
export class FunctionFault extends Error {
  constructor(
    message: string,
    readonly advice?: string,
    /** Which argument is to blame, from 0. */
    readonly argument = 0,
  ) {
    super(message);
  }
}

/** What `$` is in the examples of the reference. */
export const exampleBody: Value = {
  port: 'Kvitnes',
  arrivals: [
    { vessel: 'KM 204/5', berth: 'N1', draught: 6.5, state: 'expected' },
    { vessel: 'SV 118/2', berth: null, draught: 4.1, state: 'moored' },
  ],
};
