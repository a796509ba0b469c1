import type { BodyRef } from './journal/records.ts';
import type {
  BodySink,
  ConnectionOptions,
  ExchangeResult,
  HttpRequest,
  ResponseHead,
  Timeouts,
  Header,
} from './http/message.ts';

/** Time, which the core never reads by itself. */
export interface Clock {
  /** Wall time in milliseconds since 1970; may step back. For stamps. */
  nowMs(): number;
  /** Milliseconds from any origin; never decreases. For durations. */
  monotonicMs(): number;
  /** Resolves after so many milliseconds, or as soon as the signal is aborted. */
  sleep(milliseconds: number, signal: AbortSignal): Promise<void>;
}

/** The system's own randomness, for keys and for what is secret. */
export interface Randomness {
  bytes(count: number): Uint8Array;
}

/** The network: one request, one response or the reason why there is none. Never throws for what a server can do. */
export interface Transport {
  exchange(request: HttpRequest, options: ExchangeOptions, signal: AbortSignal): Promise<ExchangeResult>;
  close(): Promise<void>;
}

export type ExchangeOptions = Readonly<{
  timeouts: Timeouts;
  /** Bytes of a body that is held, after decompression. */
  maxBodyBytes: number;
  connection: ConnectionOptions;
  /** Called when the connection is there and the request is about to be written to it. */
  onSending?(): void;
  /** Asked when the headers are there: where the body goes piece by piece; without one it is held. */
  sinkFor?(head: ResponseHead): BodySink | undefined;
}>;

/** An address that is listened at for callbacks. */
export interface CallbackServer {
  /** `http://127.0.0.1:PORT/PATH` */
  readonly url: string;
  readonly port: number;
  /**
   * The first request that fits, those that came before anybody waited too; nothing when none came in time. Others are
   * answered 202, and handed to `passed`.
   */
  next(
    fits: (request: ReceivedRequest) => boolean,
    within: Readonly<{ milliseconds: number; signal: AbortSignal; passed(request: ReceivedRequest): void }>,
  ): Promise<(ReceivedRequest & Readonly<{ answer(answer: CallbackAnswer): void }>) | undefined>;
  close(): void;
}

export type ReceivedRequest = Readonly<{
  method: string;
  /** As it was asked for, from its scheme on. */
  url: string;
  headers: readonly Header[];
  body: Uint8Array;
}>;

export type CallbackAnswer = Readonly<{ status: number; headers: readonly Header[]; body: string }>;

/** Opens addresses for callbacks. Rejects when the port cannot be listened at. */
export type OpenCallbacks = (where: Readonly<{ path: string; port: number; bind: string }>) => Promise<CallbackServer>;

/** How text goes into a file of rows: whether secrets stay as they are, and as which bytes. */
export type RowsWriting = Readonly<{ reveal: boolean; encode(text: string): string | Uint8Array }>;

/** A file of rows that steps write. Its path is the one in the project, the same wherever one stands. */
export interface RowsFile {
  readonly path: string;
  /** Nothing goes there, and nothing is told of it: the run does not do all that its chain says. */
  readonly isNowhere?: true;
  /** What is in it now, or its part from a byte up to another; nothing when it is not there. */
  read(from?: number, to?: number): Uint8Array | undefined;
  /** Bytes that are in it now. */
  size(): number;
  /** Another one whenever anybody has written to it. */
  stamp(): string;
  /** Puts text behind what is there, in one system call. */
  append(text: string, how: RowsWriting): void;
  /** Cuts it back to so many bytes. */
  cut(size: number): void;
  /** Writes the whole file in one step. */
  replace(text: string, how: RowsWriting): void;
  /** Does something while no other process does so with this file. */
  withLock<T>(work: () => T): T;
}

/** A file that a response's body is saved to. Nothing stands at its place before all of it has come. */
export interface SavingFile extends BodySink {
  /** Its path in the project, and whether a file stands there. */
  readonly path: string;
  readonly isThere: boolean;
  /** All of it has come: its path in the project, its size in bytes and its digest. It is not in its place yet. */
  finish(): Promise<SavedFile>;
  /** Puts it into its place, after it is finished. */
  place(): void;
  /** Leaves no trace. */
  abandon(): Promise<void>;
}

export type SavedFile = Readonly<{ path: string; size: number; sha256: string; replaced: boolean }>;

/** A file of lines for a list that is too long to hold. */
export interface LinesFile {
  /** Puts a line behind those that are there. False, and an empty line in its place, when it holds what is secret. */
  add(line: string): boolean;
  /** Nothing more is added; what there is. */
  finish(): Readonly<{ file: string; size: number; sha256: string }>;
  /** All lines, from the first on, in pieces. */
  pieces(): AsyncIterable<readonly string[]>;
}

/** Begins such a file, and names it by what it is for. */
export type OpenLines = (what: 'table' | 'gather' | 'response') => LinesFile;

/** Where a run's record goes: lines in order, bodies beside them. What it is given is masked already. */
export interface JournalStore {
  /**
   * Reaches the kernel before it returns, so that a killed process loses nothing; with `mayWait` when more is appended, or
   * at the latest when nothing else is left to do for the moment.
   */
  append(lines: string, mayWait: boolean): void;
  /** Puts a body where it belongs by its size. */
  storeBody(content: Uint8Array | string, type: string | undefined): BodyRef;
  /** Reaches the disk before it resolves. */
  sync(): Promise<void>;
  close(): Promise<void>;
}
