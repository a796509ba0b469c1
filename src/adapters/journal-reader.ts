import { closeSync, openSync, readdirSync, readFileSync, readSync, statSync } from 'node:fs';
import path from 'node:path';
import type { BodyRef, JournalEvent } from '../core/journal/events.ts';
import { packName } from './journal-files.ts';

/** One recorded run: its events, and its bodies on demand. */
export type RecordedRun = Readonly<{
  id: string;
  folder: string;
  events: readonly JournalEvent[];
  body(ref: BodyRef): Uint8Array | undefined;
}>;

/** Ids of recorded runs, newest first. */
export function listRuns(recordFolder: string): readonly string[] {
  const folder = path.join(recordFolder, 'runs');
  const modified = (id: string) =>
    statSync(path.join(folder, id, 'journal.ndjson'), { throwIfNoEntry: false })?.mtimeMs ?? 0;
  try {
    return readdirSync(folder)
      .map((id) => ({ id, at: modified(id) }))
      .filter(({ at }) => at > 0)
      .sort((a, b) => b.at - a.at || (a.id < b.id ? 1 : -1))
      .map(({ id }) => id);
  } catch {
    return [];
  }
}

/** Reads a journal. A torn last line is passed over, so a run can be read while it goes on. */
export function readRun(recordFolder: string, id: string): RecordedRun | undefined {
  const folder = path.join(recordFolder, 'runs', id);
  let text: string;
  try {
    text = readFileSync(path.join(folder, 'journal.ndjson'), 'utf8');
  } catch {
    return undefined;
  }
  const complete = text.slice(0, text.lastIndexOf('\n') + 1);
  const events = complete
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as JournalEvent);
  return { id, folder, events, body: (ref) => readBody(folder, ref) };
}

function readBody(folder: string, ref: BodyRef): Uint8Array | undefined {
  if ('text' in ref) return Buffer.from(ref.text);
  if ('file' in ref) return readFileSync(path.join(folder, path.basename(ref.file)));
  if (!('at' in ref)) return undefined;
  const [pack, offset, length] = ref.at;
  const data = Buffer.alloc(length);
  const descriptor = openSync(path.join(folder, packName(pack)), 'r');
  try {
    readSync(descriptor, data, 0, length, offset);
  } finally {
    closeSync(descriptor);
  }
  return data;
}
