import type { Range } from '../diagnostics/problem.ts';
import type { ValueType } from '../value/value.ts';

/** Names that have a meaning of their own and cannot be bound. */
export const RESERVED: ReadonlySet<string> = new Set(
  'secret setting outputs remembered run response request loop true false null in'.split(' '),
);

/** What stands beside `$` in the response keys of a call, each also as `response.NAME`; and its kind, if it has always one. */
export const RESPONSE_NAMES: ReadonlyMap<string, ValueType | undefined> = new Map<string, ValueType | undefined>([
  ['status', 'number'],
  ['headers', 'object'],
  ['cookies', 'object'],
  ['url', 'string'],
  ['took', 'duration'],
  ['size', 'number'],
  ['raw', 'bytes'],
  ['tries', 'number'],
  ['polls', 'number'],
  ['page_count', 'number'],
  ['items', 'array'],
]);

/** Keys in which the response is there to be read. */
export const RESPONSE_KEYS = 'expect and keep';

/** What is known of a name at a place before anything runs. */
export type NameInfo = Readonly<{
  /** How it was bound, in words: `an input`, `kept by arrivals`. */
  by: string;
  /** Its kind, as far as the text says. */
  kind: ValueType | undefined;
  /** An optional input: it may be nothing, and what is exactly its placeholder is then left out. */
  optional: boolean;
  /** The conditions, as they are written, under which it is bound; none when it always is. */
  under: readonly string[];
  /** Where it is bound: in several places where one of several ways is gone, or by rounds. */
  at: readonly Range[];
}>;

export type Names = ReadonlyMap<string, NameInfo>;
