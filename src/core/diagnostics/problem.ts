import type { Code } from './catalogue.ts';

/**
 * A half-open stretch of a text, in UTF-16 code units from its start. Lines and columns are computed only when a
 * problem is printed (`frame.ts`).
 */
export type Range = readonly [start: number, end: number];

/** A stretch of a text and what should stand there. */
export type Edit = Readonly<{ range: Range; text: string }>;

/** An edit that corrects a problem; `sure` when nothing else can have been meant. */
export type Fix = Edit & Readonly<{ sure?: true }>;

/** Something wrong with one text, before it is known in which file that text stands. */
export type Problem = Readonly<{
  code: Code;
  range: Range;
  /** What is wrong, in one sentence without the full stop of a heading. */
  message: string;
  /** What was found, a line each, where it is much. */
  list?: readonly string[];
  /** What to do about it. */
  advice?: string;
  /** What should stand instead, when that is known. */
  fix?: Fix;
  /** Of a code that is an error, where the project says that it is to be a note. */
  level?: 'warning';
}>;

/** Ends the parsing of one text at its first error; caught by the parser's own entry point, never seen outside. */
export class SyntaxFault extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message);
  }
}

/** Makes an unhandled case of a union a type error where it must be handled, and a clear one at run time. */
export function assertNever(value: never): never {
  throw new Error(`Unhandled variant: ${JSON.stringify(value)}`);
}
