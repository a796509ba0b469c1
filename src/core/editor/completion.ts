import type { Range } from '../diagnostics/problem.ts';
import type { JsonSchema } from '../schema/input.ts';
import type { SourceFile } from '../diagnostics/source.ts';
import type { ChainPieces } from './chain-pieces.ts';
import type { Cursor } from './cursor.ts';
import type { Fields } from './fields.ts';
import type { FileSurroundings } from './surroundings.ts';

/** One thing that may be written at a cursor. */
export type Completion = Readonly<{
  label: string;
  sort: 'key' | 'word' | 'name' | 'member' | 'function' | 'file' | 'request';
  /** Beside the label: a type, a signature, what it was last. */
  detail?: string | undefined;
  /** A sentence or two, as Markdown. */
  about?: string | undefined;
  /** The stretch of the file that it replaces, and by what. */
  range: Range;
  insert: string;
  /** Lower comes first; 1 if not said. */
  rank?: number;
}>;

/** A file with a cursor, and all that is known around it. */
export type Editing = Readonly<{
  file: SourceFile;
  kind: 'chain' | 'project';
  cursor: Cursor;
  fields: Fields;
  /** What may be written at the cursor, as far as the keys around it say. */
  schemas: readonly JsonSchema[];
  pieces: ChainPieces;
  around: FileSurroundings;
}>;

/** Something that knows what may be written: a file here and a line in the list. */
export type Completer = (editing: Editing) => readonly Completion[];

/** From where a word begins to where it ends, the letters behind the cursor included. */
export function wordRange({ file: { text }, cursor: { offset } }: Editing, start: number, letters = /[\w-]/): Range {
  let end = offset;
  while (end < text.length && letters.test(text[end]!)) end++;
  return [start, end];
}
