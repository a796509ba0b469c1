import { fdatasync, writeSync } from 'node:fs';
import { isatty } from 'node:tty';

/** A reader that has gone away (`batharon ... | head`) is no error of ours; nothing more is written to it. */
const gone = new Set<number>();
let outGone = (): void => {};

/** Calls back when nobody reads standard output any more. */
export function onOutGone(listener: () => void): void {
  outGone = listener;
}

/** Standard output on a full disk or a closed device: said once, on standard error, and the status is that of no result. */
function failed(descriptor: number, code: string | undefined): void {
  gone.add(descriptor);
  if (descriptor !== 1) return;
  writeAll(2, `error not-writable: standard output could not be written (${code})\n`);
  process.once('exit', () => (process.exitCode = 3));
  process.exitCode = 3;
}

/** Bytes written: a text goes as it is, which is faster than by way of a buffer. */
function write(descriptor: number, data: string | Uint8Array): number {
  return typeof data === 'string' ? writeSync(descriptor, data) : writeSync(descriptor, data);
}

/** What is left of data of which so many bytes are written. */
function unwritten(data: string | Uint8Array, bytes: number): string | Uint8Array {
  if (typeof data !== 'string') return data.subarray(bytes);
  return bytes === Buffer.byteLength(data) ? '' : Buffer.from(data).subarray(bytes);
}

/** Writes all of it before returning, also to a pipe that is full for the moment. */
export function writeAll(descriptor: number, data: string | Uint8Array): void {
  if (gone.has(descriptor)) return;
  let rest = data;
  while (rest.length > 0) {
    try {
      rest = unwritten(rest, write(descriptor, rest));
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EPIPE' && descriptor === 1) {
        gone.add(descriptor);
        return outGone();
      }
      if (code !== 'EAGAIN' && descriptor <= 2) return failed(descriptor, code);
      if (code !== 'EAGAIN') throw error;
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
    }
  }
}

/** Waits until what was written is on the disk. */
export function synced(descriptor: number): Promise<void> {
  return new Promise((resolve, reject) => fdatasync(descriptor, (error) => (error ? reject(error) : resolve())));
}

/** Time for which output waits to go out together, where no terminal shows it at once. */
const GATHER_MS = 100;

/** Standard output: at once on a terminal, gathered for a moment into a pipe or file, where a line a write is slow. */
export class OutputLines {
  private waiting = '';
  private timer: NodeJS.Timeout | undefined;
  private readonly isTerminal: boolean;

  constructor(private readonly descriptor: number) {
    this.isTerminal = isatty(descriptor);
  }

  write(text: string): void {
    this.waiting += text;
    if (this.isTerminal || this.waiting.length > 65_536) this.flush();
    else this.timer ??= setTimeout(() => this.flush(), GATHER_MS).unref();
  }

  flush(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    const text = this.waiting;
    this.waiting = '';
    if (text !== '') writeAll(this.descriptor, text);
  }
}
