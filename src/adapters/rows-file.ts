import {
  closeSync,
  existsSync,
  fchmodSync,
  fstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  statSync,
  truncateSync,
} from 'node:fs';
import path from 'node:path';
import type { RowsFile } from '../core/ports.ts';
import { FileLock } from './file-lock.ts';
import { OWNER_ONLY, replaceFile } from './placing.ts';
import { writeAll } from './write-all.ts';

/** A file of rows; what is secret is masked in it unless it is to be revealed. */
export function rowsFile(file: string, shown: string, lock: string, masked: (text: string) => string): RowsFile {
  return {
    path: shown,
    read: (from, to) => (existsSync(file) ? bytesOf(file, from, to) : undefined),
    size: () => statSync(file, { throwIfNoEntry: false })?.size ?? 0,
    stamp: () => {
      const { ino, size, mtimeMs } = statSync(file, { throwIfNoEntry: false }) ?? {};
      return `${ino} ${size} ${mtimeMs}`;
    },
    append: (text, { reveal, encode }) =>
      appendTo(file, encode(reveal ? text : masked(text)), reveal ? OWNER_ONLY : 0o644),
    cut: (size) => truncateSync(file, size),
    replace: (text, { reveal, encode }) => {
      mkdirSync(path.dirname(file), { recursive: true });
      const content = encode(reveal ? text : masked(text));
      replaceFile(file, reveal ? OWNER_ONLY : 0o644, (descriptor) => writeAll(descriptor, content));
    },
    withLock: (work) => {
      const fileLock = new FileLock(lock);
      try {
        return fileLock.withLock(work);
      } finally {
        fileLock.close();
      }
    },
  };
}

/** The bytes of a file, or of its part from one up to another. */
function bytesOf(file: string, from = 0, to = Infinity): Uint8Array {
  if (from === 0 && to === Infinity) return readFileSync(file);
  const descriptor = openSync(file, 'r');
  try {
    const bytes = Buffer.alloc(Math.min(to, fstatSync(descriptor).size) - from);
    return bytes.subarray(0, readSync(descriptor, bytes, 0, bytes.length, from));
  } finally {
    closeSync(descriptor);
  }
}

function appendTo(file: string, content: string | Uint8Array, mode: number): void {
  const descriptor = openSync(file, 'a', mode);
  try {
    if (mode === OWNER_ONLY) fchmodSync(descriptor, mode);
    writeAll(descriptor, content);
  } finally {
    closeSync(descriptor);
  }
}
