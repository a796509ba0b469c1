import type { Quota } from './rate-limit.ts';

/** One sending that was planned, or has been done, in a rate limiter. */
export type Slot = Readonly<{
  /** When it is to go out, or went out; milliseconds since 1970. */
  at: number;
  /** Who has still to send it; nothing when it is done with. */
  owner?: number;
}>;

/** What a server's own counting leaves: no sending from the slot `limit` on before `until`. */
export type Budget = Readonly<{ limit: number; until: number; name: string }>;

/** Why nothing goes out: what a server answered, when and in which run. */
export type Closing = Readonly<{ status: number; field: string; at: number; run: string }>;

/** What is known of a rate limiter beside its slots. */
export type LimiterHead = {
  /** Slots that were ever taken; the number of the next one. */
  taken: number;
  /** Nothing goes out before this instant, and why. */
  closedUntil: number;
  closedBy?: Closing | undefined;
  /** What was sent in the present period of each length that a quota has. */
  quotas: Partial<Record<Quota['period'], { from: number; used: number }>>;
  /** By the response to which slot the server was heard last, and what it left. */
  heardBy: number;
  budgets: readonly Budget[];
};

/** A rate limiter as it is at one moment. What is changed in it is kept when the work on it ends. */
export interface LimiterState {
  readonly head: LimiterHead;
  /** The slot of a number, as long as it is remembered. */
  slot(number: number): Slot | undefined;
}

/** A rate limiter as it is stored: one file, or one object. */
export interface StoredLimiter {
  /** As it is now; others may be at it. */
  look(): LimiterState;
  /** Puts down when the slot of a number is to go out, or went out. It belongs to who took it, so nobody else writes it. */
  put(number: number, slot: Slot): void;
}

/** Where rate limiters are stored that are worked on under a lock. */
export interface LockedStore {
  /** Whoever takes slots here, as slots name it. */
  readonly owner: number;
  /** Whether who took a slot may still send it. */
  isAlive(owner: number): boolean;
  /** The names of all that are kept. */
  names(): readonly string[];
  /** Whether a rate limiter is kept already. */
  has(name: string): boolean;
  /** Opens a rate limiter that remembers so many slots; its longest window in milliseconds. */
  open(name: string, slots: number, windowMs: number): StoredLimiter;
  /** Works on rate limiters while nobody else does, the outer one first. */
  withLock<T>(limiters: readonly StoredLimiter[], work: (states: readonly LimiterState[]) => T): Promise<T>;
  close(): void;
}

export function emptyHead(): LimiterHead {
  return { taken: 0, closedUntil: 0, quotas: {}, heardBy: -1, budgets: [] };
}

/** Rate limiters that are kept in memory: for one process alone, and for what is only simulated. */
export class MemoryLimiters implements LockedStore {
  readonly owner = 1;
  private readonly limiters = new Map<string, StoredLimiter>();

  isAlive(): boolean {
    return true;
  }

  has(name: string): boolean {
    return this.limiters.has(name);
  }

  names(): readonly string[] {
    return [...this.limiters.keys()];
  }

  open(name: string, slots: number): StoredLimiter {
    const known = this.limiters.get(name);
    if (known) return known;
    const ring = new Map<number, Slot>();
    const state: LimiterState = { head: emptyHead(), slot: (number) => ring.get(number) };
    const limiter: StoredLimiter = {
      put: (number: number, slot: Slot) => {
        ring.set(number, slot);
        ring.delete(number - slots - 1);
      },
      look: () => state,
    };
    this.limiters.set(name, limiter);
    return limiter;
  }

  withLock<T>(limiters: readonly StoredLimiter[], work: (states: readonly LimiterState[]) => T): Promise<T> {
    return Promise.resolve(work(limiters.map((limiter) => limiter.look())));
  }

  close(): void {}
}
