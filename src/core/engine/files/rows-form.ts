import type { ObjectValue } from '../../value/value.ts';

/** How rows stand in the text of one file. */
export interface RowsForm {
  /** Whether rows can be put behind others, without the file being written anew. */
  readonly grows: boolean;
  /** The rows of a file as it is; the names are those of a row to come, by which a layout is told. Throws `RowFault`. */
  read(text: string, names: readonly string[]): readonly ObjectValue[];
  /** Takes in how a file is laid out to which rows are to be put, from its beginning; tells what ends its lines. */
  learn(start: string, names: readonly string[]): string;
  /** The text of a file of these rows. Throws `RowFault`. */
  whole(rows: readonly ObjectValue[]): string;
  /** The text of rows behind those that are there. Throws `RowFault`. */
  more(rows: readonly ObjectValue[]): string;
}

/** What there is to say of a form beside its kind. */
export type RowsFormOptions = Readonly<{
  /** Whether a row may bring further columns. */
  mayWiden: boolean;
  /** Whether cells that a spreadsheet would run are made texts. */
  spreadsheet: boolean;
  /** How a new CSV file is laid out, where that is known. */
  separator?: string | undefined;
}>;
