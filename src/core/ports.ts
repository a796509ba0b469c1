import type { BodyRef } from './journal/events.ts';
import type { ExchangeResult, HttpRequest, Timeouts } from './http/message.ts';

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
  exchange(request: HttpRequest, limits: ExchangeLimits, signal: AbortSignal): Promise<ExchangeResult>;
  close(): Promise<void>;
}

export type ExchangeLimits = Readonly<{ timeouts: Timeouts; maxBodyBytes: number }>;

/** Where a run's record goes: lines in order, bodies beside them. What it is given is masked already. */
export interface JournalStore {
  /** Reaches the kernel before it returns, so that a killed process loses nothing. */
  append(lines: string): void;
  /** Puts a body where it belongs by its size. */
  storeBody(content: Uint8Array | string, type: string | undefined): BodyRef;
  /** Reaches the disk before it resolves. */
  sync(): Promise<void>;
  close(): Promise<void>;
}
