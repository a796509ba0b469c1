import { createHash } from 'node:crypto';
import {
  closeSync,
  existsSync,
  fchmodSync,
  fdatasync,
  fstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  statSync,
  truncateSync,
  writeSync,
} from 'node:fs';
import path from 'node:path';
import { isatty } from 'node:tty';
import type { RowsFile, SavedFile, SavingFile } from '../core/ports.ts';
import { Masker } from '../core/masking/masker.ts';
import { FileLock } from './file-lock.ts';
import { openBeside, OWNER_ONLY, replaceFile, type Beside } from './placing.ts';

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
  const out = new Lines(1);
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
    onOutGone: (listener) => void (outGone = listener),
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
    rowsFile: (file, shown, lock) => ({
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
        replaceWith(file, encode(reveal ? text : masked(text)), reveal ? OWNER_ONLY : 0o644);
      },
      withLock: (work) => {
        const fileLock = new FileLock(lock);
        try {
          return fileLock.withLock(work);
        } finally {
          fileLock.close();
        }
      },
    }),
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

/** A file beside its place, which is put there when all of it is written and on disk, and what it is of is as it should be. */
class PartialFile implements SavingFile {
  protected beside: Beside | undefined;
  private readonly hash = createHash('sha256');
  private size = 0;

  constructor(
    protected readonly file: string,
    readonly path: string,
  ) {}

  get isThere(): boolean {
    return existsSync(this.file);
  }

  write(chunk: Uint8Array): 'more' {
    writeAll(this.open().descriptor, chunk);
    this.hash.update(chunk);
    this.size += chunk.length;
    return 'more';
  }

  protected open(): Beside {
    if (this.beside) return this.beside;
    mkdirSync(path.dirname(this.file), { recursive: true });
    return (this.beside = openBeside(this.file, 0o644));
  }

  async finish(): Promise<SavedFile> {
    await synced(this.open().descriptor).catch(ignoredByStreams);
    return { path: this.path, size: this.size, sha256: this.hash.digest('hex'), replaced: this.isThere };
  }

  place(): void {
    this.open().place();
  }

  async abandon(): Promise<void> {
    this.beside?.abandon();
  }
}

/** A device, a pipe or a descriptor: what has gone there cannot be taken back. */
class StreamFile extends PartialFile {
  protected override open(): Beside {
    return (this.beside ??= streamAt(this.file));
  }
}

/** A pipe or a device has no disk to wait for. */
function ignoredByStreams(error: NodeJS.ErrnoException): void {
  if (error.code !== 'EINVAL' && error.code !== 'ENOTSUP') throw error;
}

/** A device or a pipe; what stands for a descriptor of this process is that descriptor. */
function streamAt(file: string): Beside {
  const own =
    { '/dev/stdout': 1, '/dev/stderr': 2 }[file] ?? Number(/^\/(?:dev|proc\/self)\/fd\/(\d+)$/.exec(file)?.[1] ?? -1);
  const descriptor = own < 0 ? openSync(file, 'a') : own;
  const close = () => void (own < 0 && closeSync(descriptor));
  return { descriptor, place: close, abandon: close };
}

function synced(descriptor: number): Promise<void> {
  return new Promise((resolve, reject) => fdatasync(descriptor, (error) => (error ? reject(error) : resolve())));
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

/** Time for which output waits to go out together, where no terminal shows it at once. */
const GATHER_MS = 100;

/** Standard output: at once on a terminal, gathered for a moment into a pipe or file, where a line a write is slow. */
class Lines {
  private waiting = '';
  private timer: NodeJS.Timeout | undefined;
  private readonly concurrency: boolean;

  constructor(private readonly descriptor: number) {
    this.concurrency = isatty(descriptor);
  }

  write(text: string): void {
    this.waiting += text;
    if (this.concurrency || this.waiting.length > 65_536) this.flush();
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

function openAppender(file: string): Appender {
  mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
  const descriptor = openSync(file, 'a', 0o600);
  return {
    write: (data) => writeAll(descriptor, data),
    sync: () => synced(descriptor),
    close: () => closeSync(descriptor),
  };
}

/** A reader that has gone away (`batharon ... | head`) is no error of ours; nothing more is written to it. */
const gone = new Set<number>();
let outGone = (): void => {};

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
function writeAll(descriptor: number, data: string | Uint8Array): void {
  if (gone.has(descriptor)) return;
  let rest = data;
  while (rest.length > 0) {
    try {
      rest = unwritten(rest, write(descriptor, rest));
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EPIPE' && descriptor <= 2) {
        gone.add(descriptor);
        if (descriptor === 1) outGone();
        return;
      }
      if (code !== 'EAGAIN' && descriptor <= 2) return failed(descriptor, code);
      if (code !== 'EAGAIN') throw error;
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
    }
  }
}
