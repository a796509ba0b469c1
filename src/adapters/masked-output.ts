import { PartialFile, StreamFile, streamAt } from './saving-files.ts';
import { rowsFile } from './rows-file.ts';
import { onOutGone, OutputLines, synced, writeAll } from './write-all.ts';
import { closeSync, mkdirSync, openSync, statSync } from 'node:fs';
import path from 'node:path';
import type { RowsFile, SavingFile } from '../core/ports.ts';
import { Masker } from '../core/masking/masker.ts';
import { replaceFile } from './placing.ts';

/** A file that is only appended to. */
export type Appender = Readonly<{ write(data: string | Uint8Array): void; sync(): Promise<void>; close(): void }>;

/**
 * The one place where anything leaves the process: terminal, journal, packs, files of results. Nothing else in the
 * code holds a stream or a path to write to, and text is masked here. What was masked when it was recorded passes
 * through again unchanged.
 */
export type MaskedOutput = Readonly<{
  masker: Masker;
  out(text: string): void;
  err(text: string): void;
  /** Calls back before anything is written to standard output or standard error; one listener at a time. */
  beforeWriting(listener: () => void): void;
  /** Calls back when nobody reads standard output any more. */
  onOutGone(listener: () => void): void;
  /** Opens a file for appending; folders on the way are made for their owner alone. */
  appender(file: string): Appender;
  /** Writes a whole file in one step: readers see the old one or the new one. */
  writeFile(file: string, content: string | Uint8Array, mode?: number): void;
  /** The same from pieces, none of which a secret goes across; tells how many bytes it has. */
  writePieces(file: string, pieces: Iterable<string>, mode: number): number;
  /** Writes pieces behind what a device, a pipe or a descriptor has had; tells how many bytes. */
  writeInto(file: string, pieces: Iterable<string>): number;
  /** Begins a file for what a server sends, true values and all; it comes to its place when it is complete. */
  savingFile(file: string, shown: string): SavingFile;
  /** The same for a device or a pipe, which takes it as it comes. */
  savingStream(file: string, shown: string): SavingFile;
  /** A file of rows; what is secret is masked in it unless it is to be revealed. Its lock stands elsewhere, not beside it. */
  rowsFile(file: string, shown: string, lock: string): RowsFile;
  /** The file of secrets itself, for its owner alone: the one place where their values are meant to be. */
  writeSecrets(file: string, content: string): void;
  /** The same for a file that the user wrote, which is given back with a change: nothing in it is masked. */
  rewriteFile(file: string, content: string): void;
}>;

export function createMaskedOutput(): MaskedOutput {
  const masker = new Masker();
  const masked = (text: string) => (masker.isActive ? masker.inside(text) : text);
  const out = new OutputLines(1);
  let before = (): void => {};
  atTheEnd(() => out.flush());
  return {
    masker,
    beforeWriting: (listener) => void (before = listener),
    out: (text) => {
      before();
      out.write(masked(text));
    },
    err: (text) => {
      before();
      out.flush();
      writeAll(2, masked(text));
    },
    onOutGone,
    appender: openAppender,
    writeFile: (file, content, mode = 0o600) => {
      mkdirSync(path.dirname(file), { recursive: true });
      replaceWith(file, typeof content === 'string' ? masked(content) : content, mode);
    },
    writePieces: (file, pieces, mode) => {
      mkdirSync(path.dirname(file), { recursive: true });
      return replaceFromPieces(file, pieces, masked, mode);
    },
    writeInto: (file, pieces) => {
      out.flush();
      const { descriptor, place } = streamAt(file);
      try {
        return writePiecesTo(descriptor, pieces, masked);
      } finally {
        place();
      }
    },
    savingFile: (file, shown) => new PartialFile(file, shown),
    savingStream: (file, shown) => new StreamFile(file, shown),
    rowsFile: (file, shown, lock) => rowsFile(file, shown, lock, masked),
    writeSecrets: (file, content) => {
      mkdirSync(path.dirname(file), { recursive: true });
      replaceWith(file, content, 0o600);
    },
    rewriteFile: (file, content) => replaceWith(file, content, statSync(file).mode & 0o777),
  };
}

const endings: (() => void)[] = [];

/** Calls back when the process ends. */
function atTheEnd(listener: () => void): void {
  if (endings.push(listener) === 1) process.on('exit', () => endings.forEach((each) => each()));
}

function replaceWith(file: string, content: string | Uint8Array, mode: number): void {
  replaceFile(file, mode, (descriptor) => writeAll(descriptor, content));
}

/** Characters of a report that are written at a time. */
const BATCH = 256 * 1024;

function replaceFromPieces(
  file: string,
  pieces: Iterable<string>,
  masked: (text: string) => string,
  mode: number,
): number {
  let size = 0;
  replaceFile(file, mode, (descriptor) => void (size = writePiecesTo(descriptor, pieces, masked)));
  return size;
}

function writePiecesTo(descriptor: number, pieces: Iterable<string>, masked: (text: string) => string): number {
  let size = 0;
  let waiting = '';
  const write = (): void => {
    const data = Buffer.from(waiting);
    waiting = '';
    writeAll(descriptor, data);
    size += data.length;
  };
  for (const piece of pieces) {
    waiting += masked(piece);
    if (waiting.length > BATCH) write();
  }
  write();
  return size;
}

function openAppender(file: string): Appender {
  mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
  const descriptor = openSync(file, 'a', 0o600);
  return {
    write: (data) => writeAll(descriptor, data),
    sync: () => synced(descriptor),
    close: () => closeSync(descriptor),
  };
}
