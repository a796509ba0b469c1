import { cutAt } from '../value/show.ts';

/** A chain as a picture of its data: rows from top to bottom, frames around some of them, and what flows between rows. */
export type Picture = Readonly<{
  name: string;
  about: string | undefined;
  rows: readonly PictureRow[];
  frames: readonly Frame[];
  flows: readonly Flow[];
  /** The APIs that calls go to, in the order in which they come. */
  apis: readonly string[];
}>;

/** One row: the inputs, a step, a heading of steps, or the outputs. */
export type PictureRow = Readonly<{
  sort: 'inputs' | 'step' | 'heading' | 'outputs';
  /** The number of a step without those of items, as in addresses: `2.1`, `4.o1`, `c1`. */
  number: string;
  depth: number;
  title: string;
  /** The kind of step in a word, where its title does not say it. */
  kind: string;
  /** Lines below the title: the request, a condition, what is kept. */
  lines: readonly string[];
  api: string | undefined;
  /** Names that it reads and that so many read that no arc is drawn. */
  chips: readonly string[];
}>;

/** Rows that belong together: a loop with its steps, or a branch. `first` is its heading. */
export type Frame = Readonly<{ first: number; last: number; depth: number }>;

/** What one row takes of another. */
export type Flow = Readonly<{ from: number; to: number; names: readonly string[] }>;

/** What a run came to at a row. */
export type RowMark = Readonly<{
  outcome: 'passed' | 'failed' | 'skipped' | 'other';
  /** In words: `14 of 15 passed, 18 requests, 120 ms`. */
  text: string;
}>;

/** Marks by the number of their row. */
export type RunMarks = Readonly<{ heading: string; marks: ReadonlyMap<string, RowMark> }>;

/** `due, day, flag and 2 more`: names of a flow as a picture shows them. */
export function flowLabel(names: readonly string[], mostNames = 3, mostLetters = 18): string {
  const shown = names.slice(0, mostNames).map((name) => cutAt(name, mostLetters));
  const more = names.length - shown.length;
  return more > 0 ? `${shown.join(', ')}, ${more} more` : shown.join(', ');
}

/** A sign for each outcome, so that no colour has to tell them apart. */
export const SIGNS: Readonly<Record<RowMark['outcome'], string>> = {
  passed: '✓',
  failed: '✗',
  skipped: '–',
  other: '·',
};
