import { spaceBefore } from './complete-words.ts';
import { wordRange, type Completer } from './completion.ts';
import { holdsOf } from './fields.ts';

/** Names of files, relative to the file that is written. */
export const completeFiles: Completer = (editing) => {
  const { cursor, schemas, around } = editing;
  if (cursor.role === 'key') return [];
  const holds = holdsOf(schemas);
  const files = holds.has('chain-file') ? around.chainFiles() : holds.has('file') ? around.files() : [];
  const range = wordRange(editing, cursor.start, /[\w./-]/);
  const space = spaceBefore(editing);
  return files.map((label) => ({ label, sort: 'file', range, insert: space + label }));
};
