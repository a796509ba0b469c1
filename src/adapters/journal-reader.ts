import { closeSync, existsSync, openSync, readdirSync, readFileSync, readSync, statSync } from 'node:fs';
import path from 'node:path';
import type { BodyRef, JournalEvent } from '../core/journal/events.ts';
import { exchangesOf, type ExchangeRecord } from '../core/report/exchange.ts';
import type { RunSource } from '../core/report/told-run.ts';
import { packName, runFolder } from './journal-files.ts';

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
  const folder = runFolder(recordFolder, id);
  const file = path.join(folder, 'journal.ndjson');
  if (!existsSync(file)) return undefined;
  const events: JournalEvent[] = [];
  for (const { line } of linesOf(file)) events.push(JSON.parse(line) as JournalEvent);
  return { id, folder, events, body: (ref) => readBody(folder, ref) };
}

/** The same without holding it: events are gone over, and exchanges read again where they stand. */
export function walkRun(recordFolder: string, id: string): RunSource {
  const folder = runFolder(recordFolder, id);
  const file = path.join(folder, 'journal.ndjson');
  const places = new Map<number, Place[]>();
  function* events(): Generator<JournalEvent> {
    places.clear();
    for (const { line, offset, length } of linesOf(file)) {
      const event = JSON.parse(line) as JournalEvent;
      if (event.type === 'sent' || event.type === 'answered' || event.type === 'broken') {
        const known = places.get(event.x);
        if (known) known.push([offset, length]);
        else places.set(event.x, [[offset, length]]);
      }
      yield event;
    }
  }
  let descriptor: number | undefined;
  const exchange = (x: number): ExchangeRecord | undefined => {
    const opened = (descriptor ??= openSync(file, 'r'));
    const parts = places.get(x)?.map((place) => JSON.parse(readAt(opened, place).toString()) as JournalEvent) ?? [];
    return exchangesOf(parts)[0];
  };
  return { events: events(), body: (ref) => readBody(folder, ref), exchange };
}

/** The first and the last event of a run; none of one that has no journal. */
export function endsOfRun(recordFolder: string, id: string): readonly JournalEvent[] {
  const file = path.join(runFolder(recordFolder, id), 'journal.ndjson');
  const size = statSync(file, { throwIfNoEntry: false })?.size ?? 0;
  const [first] = size === 0 ? [] : linesOf(file);
  if (!first) return [];
  // The last line is rarely long; where it is, more of the end is read.
  for (let length = 4096; ; length *= 8) {
    const from = Math.max(0, size - length);
    const text = bytesAt(file, [from, size - from]).toString();
    const complete = text.slice(0, text.lastIndexOf('\n'));
    const start = complete.lastIndexOf('\n');
    if (start < 0 && from > 0) continue;
    return [first.line, complete.slice(start + 1)].map((line) => JSON.parse(line) as JournalEvent);
  }
}

/** Where a line stands in its file, and how long it is, in bytes. */
type Place = readonly [offset: number, length: number];

/** Bytes of a journal that are read at a time. */
const PIECE = 1024 * 1024;

/** The complete lines of a file, however long it is. */
function* linesOf(file: string): Generator<{ line: string; offset: number; length: number }> {
  const descriptor = openSync(file, 'r');
  try {
    let rest: Buffer = Buffer.alloc(0);
    let offset = 0;
    for (;;) {
      const piece = Buffer.alloc(PIECE);
      const count = readSync(descriptor, piece, 0, PIECE, offset + rest.length);
      if (count === 0) return;
      const data = rest.length === 0 ? piece.subarray(0, count) : Buffer.concat([rest, piece.subarray(0, count)]);
      let from = 0;
      for (let end = data.indexOf(10); end >= 0; end = data.indexOf(10, from)) {
        if (end > from) yield { line: data.toString('utf8', from, end), offset: offset + from, length: end - from };
        from = end + 1;
      }
      offset += from;
      rest = data.subarray(from);
    }
  } finally {
    closeSync(descriptor);
  }
}

function bytesAt(file: string, place: Place): Buffer {
  const descriptor = openSync(file, 'r');
  try {
    return readAt(descriptor, place);
  } finally {
    closeSync(descriptor);
  }
}

function readAt(descriptor: number, [offset, length]: Place): Buffer {
  const data = Buffer.alloc(length);
  readSync(descriptor, data, 0, length, offset);
  return data;
}

function readBody(folder: string, ref: BodyRef): Uint8Array | undefined {
  if ('text' in ref) return Buffer.from(ref.text);
  if ('file' in ref) return readFileSync(path.join(folder, path.basename(ref.file)));
  if (!('at' in ref)) return undefined;
  const [pack, offset, length] = ref.at;
  return bytesAt(path.join(folder, packName(pack)), [offset, length]);
}
