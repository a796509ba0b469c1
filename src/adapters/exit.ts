import { closeSync, fdatasync, mkdirSync, openSync, renameSync, writeFileSync, writeSync } from 'node:fs';
import path from 'node:path';
import { Masker } from '../core/masking/masker.ts';

/** A file that is only appended to. */
export type Appender = Readonly<{ write(data: string | Uint8Array): void; sync(): Promise<void>; close(): void }>;

/**
 * The one place where anything leaves the process: terminal, journal, packs, files of results. Nothing else in the
 * code holds a stream or a path to write to, and text is masked here. What was masked when it was recorded passes
 * through again unchanged.
 */
export type Exit = Readonly<{
  masker: Masker;
  out(text: string): void;
  err(text: string): void;
  /** Opens a file for appending; folders on the way are made for their owner alone. */
  appender(file: string): Appender;
  /** Writes a whole file in one step: readers see the old one or the new one. */
  writeFile(file: string, content: string | Uint8Array, mode?: number): void;
}>;

export function createExit(): Exit {
  const masker = new Masker();
  const masked = (text: string) => (masker.isActive ? masker.inside(text) : text);
  return {
    masker,
    out: (text) => writeAll(1, masked(text)),
    err: (text) => writeAll(2, masked(text)),
    appender: openAppender,
    writeFile: (file, content, mode = 0o600) => {
      mkdirSync(path.dirname(file), { recursive: true });
      const beside = `${file}.${process.pid}.part`;
      writeFileSync(beside, typeof content === 'string' ? masked(content) : content, { mode });
      renameSync(beside, file);
    },
  };
}

function openAppender(file: string): Appender {
  mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
  const descriptor = openSync(file, 'a', 0o600);
  return {
    write: (data) => writeAll(descriptor, data),
    sync: () => new Promise((resolve, reject) => fdatasync(descriptor, (error) => (error ? reject(error) : resolve()))),
    close: () => closeSync(descriptor),
  };
}

/** A reader that has gone away (`batharon ... | head`) is no error of ours; nothing more is written to it. */
const gone = new Set<number>();

/** Writes all of it before returning, also to a pipe that is full for the moment. */
function writeAll(descriptor: number, data: string | Uint8Array): void {
  if (gone.has(descriptor)) return;
  let rest: Uint8Array = typeof data === 'string' ? Buffer.from(data) : data;
  while (rest.length > 0) {
    try {
      rest = rest.subarray(writeSync(descriptor, rest));
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EPIPE' && descriptor <= 2) {
        gone.add(descriptor);
        return;
      }
      if (code !== 'EAGAIN') throw error;
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
    }
  }
}
