import { rowsFormOf } from '../engine/files/list.ts';

/**
 * Files of rows of one name as one: their rows behind one another, with all columns that any of them has. The form is told by
 * the end of the name. Throws `RowFault` where it tells none, or a text has another.
 */
export function mergedRows(path: string, texts: readonly string[]): string {
  const form = () => rowsFormOf(path, { mayWiden: true, spreadsheet: false });
  const rows = texts.filter((text) => text.trim() !== '').flatMap((text) => form().read(text, []));
  return form().whole(rows);
}
