import { closeSync, openSync, readSync, statSync } from 'node:fs';

/** Bytes of the end of a file that are looked at first; the last line is rarely longer. */
const TAIL = 4096;

/** Where the last complete line of a file stands, in bytes, its line break counted; `start` is `end` where there is none. */
export function lastLine(file: string): Readonly<{ start: number; end: number }> {
  const { size } = statSync(file);
  const descriptor = openSync(file, 'r');
  try {
    for (let length = TAIL; ; length *= 8) {
      const from = Math.max(0, size - length);
      const data = bytesAt(descriptor, from, size - from);
      const end = data.lastIndexOf(10);
      const before = end > 0 ? data.lastIndexOf(10, end - 1) : -1;
      if (before >= 0 || from === 0) return { start: from + (end < 0 ? 0 : before + 1), end: from + end + 1 };
    }
  } finally {
    closeSync(descriptor);
  }
}

/** Bytes from an offset on: as many as asked for, or as there are. */
export function bytesAt(descriptor: number, offset: number, length: number): Buffer {
  const data = Buffer.allocUnsafe(length);
  return data.subarray(0, readSync(descriptor, data, 0, length, offset));
}
