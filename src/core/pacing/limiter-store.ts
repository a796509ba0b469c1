import type { LimiterHead } from './limiter-state.ts';
import type { Hold, LimiterRules } from './schedule.ts';
import type { Remaining } from './server-signals.ts';

/** A rate limiter as somebody keeps to it. */
export type Limiter = Readonly<{
  name: string;
  rules: LimiterRules;
  /** Requests in flight at the same time, of all who keep to it; nothing where each counts its own. */
  totalConcurrency?: number | undefined;
}>;

/** Slots that were taken in some rate limiters, the outer one first: a number in each. */
export type SlotsTaken = Readonly<{ numbers: readonly number[]; owner: number }>;

export type Planned =
  /** Whether they may go out at once. */
  | (SlotsTaken & Readonly<{ isFree: boolean }>)
  /** A quota is spent; it begins anew at an instant. */
  | Readonly<{ spent: string; until: number }>
  /** As many are in flight as may be; nobody knows until when. */
  | Readonly<{ full: string }>;

/** What is kept of a rate limiter, and who is at it where several machines are. */
export type LimiterNow = Readonly<{
  head: LimiterHead;
  /** Processes with slots that are not sent yet: how many of each. */
  waiting: ReadonlyMap<string, number>;
  /** Processes with requests in flight, where these are counted for all. */
  inFlight: ReadonlyMap<string, number>;
}>;

/** What a response says of its server's limits. */
export type Heard = Readonly<{
  /** Milliseconds for which nothing is to be sent, with the status and the field that say so, and the run. */
  closes: Readonly<{ ms: number; status: number; field: string; run: string }> | undefined;
  /** What is left of its policies; no hold for it is longer than `maxWaitMs`. */
  left: readonly Remaining[];
  maxWaitMs: number;
  /** The slot of the request, or the first of this process that is not answered. */
  slot: number | undefined;
  underWay: readonly number[];
  inUse: number;
}>;

/**
 * Where rate limiters are kept that several processes keep to. Instants are milliseconds since 1970 by the clock of this
 * process, whatever clock the store goes by. A store that cannot be reached rejects with `StoreFault`.
 */
export interface LimiterStore {
  /** Whether other machines keep to them too: nobody takes a part of them then. */
  readonly isShared: boolean;
  /** Whether a rate limiter is to be kept to although the files give it no rate: a server may have said something. */
  has(name: string): boolean;
  /** Takes the next slot of each, in all or in none. */
  take(limiters: readonly Limiter[]): Promise<Planned>;
  /** What holds slots back now; `lost` where they have to be taken anew. Those that come behind plan by it. */
  hold(limiters: readonly Limiter[], taken: SlotsTaken): Hold | 'lost' | undefined | Promise<Hold | 'lost' | undefined>;
  /** The request of some slots goes out now. */
  sent(limiters: readonly Limiter[], taken: SlotsTaken): void;
  /** It has ended, or is not to be sent. */
  ended(limiters: readonly Limiter[], taken: SlotsTaken): void;
  /** Gives back what slots counted in quotas that were never sent. */
  giveBack(limiters: readonly Limiter[], taken: SlotsTaken): Promise<void>;
  /** Takes in what a response says of its server's limits. */
  hear(limiter: Limiter, heard: Heard): Promise<void>;
  /** What is kept of every rate limiter that is known, by its name. */
  present(): Promise<ReadonlyMap<string, LimiterNow>>;
  /** Opens a rate limiter that a server closed, and forgets what it said is left. What was used of quotas stays. */
  open(name: string): Promise<void>;
  close(): void;
}

/** Why a store of rate limiters cannot be asked. */
export class StoreFault extends Error {
  constructor(
    message: string,
    /** Whether asking again may help. */
    readonly mayPass: boolean,
  ) {
    super(message);
  }
}
