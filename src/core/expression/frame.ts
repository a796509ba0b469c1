import { noHost, type Host } from './host.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { Maybe, Value } from '../value/value.ts';

/** What an expression is evaluated in. Made once for an evaluation; `item` and `outer` move while filters run. */
export type Frame = {
  /** `$`: the decoded body of the response, or nothing. */
  readonly body: Maybe;
  /** The value of a name in scope, or nothing when it was not bound. */
  readonly name: (name: string) => Maybe;
  /** Why a name has no value that would have one. */
  readonly lacking?: ((name: string) => string | undefined) | undefined;
  /** What functions may ask for. */
  readonly host: Host;
  /** `@`: the item of the innermost filter. */
  item: Maybe;
  /** Values of the outer names that the filters of the present path read, evaluated once before its first item. */
  outer: readonly Value[];
  /** Whether it is judged: what no item has is nothing then, where else it is a note. */
  judges?: boolean;
  /** What is worth saying of the evaluation although it has a value. */
  notes?: Problem[] | undefined;
};

export function frameOf(
  body: Maybe,
  name: (name: string) => Maybe,
  host: Host = noHost,
  lacking?: Frame['lacking'],
): Frame {
  return { body, name, host, item: undefined, outer: [], lacking };
}

/** An expression as a function. Gives nothing where the rules of section 1.4 say so; throws `EvaluationFault`. */
export type Evaluate = (frame: Frame) => Maybe;
