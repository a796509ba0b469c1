import type { BodyRef } from '../core/journal/records.ts';
import { closeSync, openSync, readdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import type { JournalEvent } from '../core/journal/events.ts';
import type { Beside } from '../core/journal/call-records.ts';
import type { Journal } from '../core/journal/journal.ts';
import { spilledListOf } from '../core/value/spilled-list.ts';
import type { SpilledList } from '../core/value/value.ts';
import { linesOf } from './lines-files.ts';
import { FORM, LineReader } from '../core/journal/line-reader.ts';
import { expectLittleHeld, expectMuchWork } from './compiler.ts';
import { bytesAt, lastLine } from './last-line.ts';
import { packName, runFolder } from './journal-files.ts';

/** One recorded run, its bodies on demand. An incomplete last line is skipped, so that a run can be read while it is under way. */
export type RecordedRun = Beside &
  Readonly<{
    id: string;
    folder: string;
    journal: Journal;
    /** All of the journal at hand: read when it is first asked for. */
    events: readonly JournalEvent[];
    /** Another run that is recorded beside it. */
    other(run: string): RecordedRun | undefined;
  }>;

/** Journals of which it was told that they are damaged. */
const told = new Set<string>();
let onDamage: (file: string, line: number | undefined) => void = () => {};

/** Calls back once for each journal with a line that cannot be read, and is passed over. */
export function onDamagedJournal(listener: typeof onDamage): void {
  onDamage = listener;
}

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

/** A recorded run; nothing where there is no journal. */
export function readRun(recordFolder: string, id: string): RecordedRun | undefined {
  // Records name each other, and what they say may be anything.
  if (path.basename(id) !== id) return undefined;
  const folder = runFolder(recordFolder, id);
  const file = path.join(folder, 'journal.ndjson');
  if (!statSync(file, { throwIfNoEntry: false })) return undefined;
  const journal = new JournalFile(file);
  let events: readonly JournalEvent[] | undefined;
  return {
    id,
    folder,
    journal,
    get events() {
      return (events ??= [...journal]);
    },
    body: (ref) => readBody(folder, ref),
    list: (ref, length) => listIn(folder, ref, length),
    other: (run) => readRun(recordFolder, run),
  };
}

/** The first and the last event of a run; none of one that has no journal. */
export function endsOfRun(recordFolder: string, id: string): readonly JournalEvent[] {
  const journal = readRun(recordFolder, id)?.journal;
  const last = journal?.last();
  return journal && last ? [...firstOf(journal), last] : [];
}

function firstOf(journal: Journal): readonly JournalEvent[] {
  for (const event of journal) return [event];
  return [];
}

const NOTHING = Buffer.alloc(0);
/** How the line of a form begins. */
const FORM_LINE = Buffer.from(`{"${FORM}"`);

/** Bytes of a journal that are read at a time, and for one event alone. */
const PIECE = 1024 * 1024;
const NEAR = 32 * 1024;

/** Bytes from which on a journal is a long one. */
const LONG = 8 * PIECE;

/** Journals that are open for single events, the one used last behind the others. */
const opened = new Map<string, number>();
const MOST_OPEN = 16;

/** Opens a file, or gives the descriptor that it has; of many files only some stay open. */
function descriptorOf(file: string): number {
  const descriptor = opened.get(file) ?? openSync(file, 'r');
  opened.delete(file);
  opened.set(file, descriptor);
  for (const [other, each] of opened) {
    if (opened.size <= MOST_OPEN) break;
    opened.delete(other);
    closeSync(each);
  }
  return descriptor;
}

/** The complete lines of a file that begin with some bytes, each with its offset. */
function* placedLines(file: string, begin = NOTHING): Generator<readonly [line: string, offset: number]> {
  const descriptor = openSync(file, 'r');
  try {
    let rest: Buffer = Buffer.alloc(0);
    for (let offset = 0; ;) {
      const piece = bytesAt(descriptor, offset + rest.length, PIECE);
      if (piece.length === 0) return;
      const data = rest.length === 0 ? piece : Buffer.concat([rest, piece]);
      let from = 0;
      for (let end = data.indexOf(10); end >= 0; end = data.indexOf(10, from)) {
        if (begin.length === 0 || (data[from] === begin[0] && data.subarray(from, from + begin.length).equals(begin)))
          yield [data.toString('utf8', from, end), offset + from];
        from = end + 1;
      }
      offset += from;
      rest = data.subarray(from);
      if (offset > LONG && offset <= LONG + PIECE) {
        expectMuchWork();
        expectLittleHeld();
      }
    }
  } finally {
    closeSync(descriptor);
  }
}

/** A journal on disk, however long. Places are offsets of lines. */
class JournalFile implements Journal {
  private readonly lines = new LineReader();
  /** Bytes of it that were read for an event alone. */
  private around: Readonly<{ from: number; data: Buffer }> = { from: 0, data: Buffer.alloc(0) };
  /** Whether all forms are known. */
  private hasForms = false;

  constructor(private readonly file: string) {}

  *[Symbol.iterator](): Iterator<JournalEvent> {
    for (const [event] of this.placed()) yield event;
  }

  *placed(): Generator<readonly [JournalEvent, number]> {
    let number = 0;
    let seq = -1;
    for (const [line, place] of placedLines(this.file)) {
      number++;
      const event = this.eventOf(line);
      // What is out of order is reported once, at its first place.
      if (event === undefined || (event !== FORM && event.seq <= seq)) this.damaged(number);
      else if (event !== FORM) {
        seq = event.seq;
        yield [event, place];
      }
    }
  }

  *backwards(): Generator<JournalEvent> {
    const descriptor = openSync(this.file, 'r');
    try {
      // What is read and not given yet: bytes from an offset on, up to the end of a line.
      let offset = lastLine(this.file).end;
      let data: Buffer = Buffer.alloc(0);
      for (;;) {
        const before = data.length < 2 ? -1 : data.lastIndexOf(10, data.length - 2);
        if (before >= 0 || (offset === 0 && data.length > 1)) {
          const event = this.eventOf(data.toString('utf8', before + 1, data.length - 1));
          if (event === undefined) this.damaged(undefined);
          else if (event !== FORM) yield event;
          data = data.subarray(0, before + 1);
        } else if (offset === 0) return;
        else {
          const from = Math.max(0, offset - PIECE);
          data = Buffer.concat([bytesAt(descriptor, from, offset - from), data]);
          offset = from;
        }
      }
    } finally {
      closeSync(descriptor);
    }
  }

  at(place: number): JournalEvent {
    const event = this.eventOf(this.lineAt(place));
    if (event !== undefined && event !== FORM) return event;
    throw new Error(`The journal ${this.file} has no event at ${place}`);
  }

  /** The line at a place. The events of a step stand near each other: what was read last is looked into first. */
  private lineAt(place: number): string {
    const { from, data } = this.around;
    const end = place < from ? -1 : data.indexOf(10, place - from);
    if (end >= 0) return data.toString('utf8', place - from, end);
    for (let length = NEAR; ; length *= 8) {
      const read = bytesAt(descriptorOf(this.file), place, length);
      this.around = { from: place, data: read };
      const close = read.indexOf(10);
      if (close >= 0 || read.length < length) return read.toString('utf8', 0, Math.max(0, close));
    }
  }

  last(): JournalEvent | undefined {
    for (const event of this.backwards()) return event;
    return undefined;
  }

  /** The event of a line. The form of a row may stand further on only: where it is read backwards, or a line is damaged. */
  private eventOf(line: string): JournalEvent | typeof FORM | undefined {
    const event = this.lines.read(line);
    if (event !== undefined || this.hasForms || !line.startsWith('[')) return event;
    this.hasForms = true;
    for (const [each] of placedLines(this.file, FORM_LINE)) this.lines.read(each);
    return this.lines.read(line);
  }

  private damaged(line: number | undefined): void {
    if (!told.has(this.file)) onDamage(this.file, line);
    told.add(this.file);
  }
}

function readBody(folder: string, ref: BodyRef): Uint8Array | undefined {
  if ('text' in ref) return Buffer.from(ref.text);
  if ('file' in ref) return quietly(() => readFileSync(path.join(folder, path.basename(ref.file))));
  if (!('at' in ref)) return undefined;
  const [pack, offset, length] = ref.at;
  return quietly(() => {
    const descriptor = openSync(path.join(folder, packName(pack)), 'r');
    try {
      const bytes = bytesAt(descriptor, offset, length);
      return bytes.length === length ? bytes : undefined;
    } finally {
      closeSync(descriptor);
    }
  });
}

/** A list in lines; nothing where its file is not as it was, or does not hold all of it. */
function listIn(folder: string, ref: BodyRef, length: number): SpilledList | undefined {
  if (!('file' in ref) || ref.masked) return undefined;
  const file = path.join(folder, path.basename(ref.file));
  if (statSync(file, { throwIfNoEntry: false })?.size !== ref.size) return undefined;
  const { size, sha256 = '' } = ref;
  return spilledListOf({ pieces: () => linesOf(file) }, length, { file: ref.file, size, sha256 });
}

/** A body that is gone is as if it had never been kept. */
function quietly(read: () => Uint8Array | undefined): Uint8Array | undefined {
  try {
    return read();
  } catch {
    return undefined;
  }
}
