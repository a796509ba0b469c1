import type { Clock } from '../ports.ts';
import { StoreFault, type Limiter, type LimiterStore, type SlotsTaken } from './limiter-store.ts';
import type { RateLimit, Resets } from './rate-limit.ts';
import { Semaphore } from './semaphore.ts';
import type { Hold, LimiterRules } from './schedule.ts';
import { remainingIn, retryAfterMs, type FieldOf } from './server-signals.ts';

/** What a rate limiter is made of. */
export type LimiterOptions = Readonly<{
  name: string;
  rateLimit: RateLimit;
  resets: Resets;
  /** Requests in flight at the same time, in this process. */
  concurrency: number;
  /** The same of all processes that share the store. */
  totalConcurrency?: number | undefined;
  /** No hold that a server's remaining count asks for is longer. */
  maxWaitMs: number;
}>;

/** One way to a server, which all requests to it keep to. Without a rate limit, and as long as the server says nothing, it is free. */
export class RateLimiter implements Limiter {
  readonly name: string;
  readonly semaphore: Semaphore;
  readonly rules: LimiterRules;
  readonly totalConcurrency: number | undefined;
  /** Whether it is free. */
  isFree: boolean;
  /** Slots of this process that are not answered yet. */
  readonly underWay = new Set<number>();

  constructor(
    readonly options: LimiterOptions,
    private readonly store: LimiterStore,
    private readonly clock: Clock,
  ) {
    const { rateLimit, resets, name, concurrency, totalConcurrency } = options;
    this.name = name;
    this.totalConcurrency = totalConcurrency;
    this.semaphore = new Semaphore(concurrency);
    this.rules = { rateLimit, resets };
    this.isFree = rateLimit.windows.length + rateLimit.quotas.length === 0 && !store.has(name);
  }

  /** Takes in what a response says of its server's limits. `slot` is that of its request. */
  async recordServerLimits(status: number, fieldOf: FieldOf, slot: number | undefined, run: string): Promise<void> {
    const now = this.clock.nowMs();
    const ms = status === 429 || status === 503 ? retryAfterMs(fieldOf, now) : undefined;
    const left = remainingIn(fieldOf, now);
    if (ms === undefined && left.length === 0) return;
    this.isFree = false;
    const field = `Retry-After: ${(fieldOf('retry-after') ?? '').slice(0, 60)}`;
    await this.store.hear(this, {
      closes: ms === undefined ? undefined : { ms, status, field, run },
      left,
      maxWaitMs: this.options.maxWaitMs,
      slot,
      underWay: [...this.underWay],
      inUse: this.semaphore.inUse,
    });
  }
}

/** Slots that one request has in its rate limiters. */
export interface Slots {
  /** The number in the outermost rate limiter; nothing on a rate limiter that is free. */
  readonly number: number | undefined;
  /** To be called when the request goes out. */
  sent(): void;
  /** To be called when the request has ended, however it did. */
  ended(): void;
  /** The request does not go out. What it counted in quotas is given back. */
  drop(): Promise<void>;
}

export type Taken =
  | Readonly<{ slots: Slots }>
  /** A quota is spent, or the server has closed the limiter for long; it begins anew at an instant. */
  | Readonly<{ spent: string | undefined; until: number }>
  /** What keeps the limits of several machines cannot be asked. */
  | Readonly<{ unreachable: string }>
  | Readonly<{ stopped: true }>;

/** Told when something begins to wait, and once more with nothing when that wait is over. */
type WaitTold = (hold: WaitingFor | undefined) => void;
type WaitingFor = Hold | Readonly<{ until: number; why: 'shared-limits'; detail: string }>;

const FREE: Taken = { slots: { number: undefined, sent: () => {}, ended: () => {}, drop: async () => {} } };

/** How a request is let out: where its limits are kept, and how long is waited. */
type Entrance = Readonly<{
  store: LimiterStore;
  clock: Clock;
  signal: AbortSignal;
  /** A server that closes a rate limiter for longer is not waited for, nor a store that cannot be asked. */
  longestMs: number;
  told: WaitTold;
}>;

/** Takes a slot in each rate limiter, in all or in none, and waits for its time; at once where the rate limiters are free. */
export function takeSlots(limiters: readonly RateLimiter[], entrance: Entrance): Taken | Promise<Taken> {
  return limiters.every(({ isFree }) => isFree) ? FREE : new Entering(limiters, entrance).taken();
}

/** How long to wait before a place among those in flight everywhere is asked for again. */
const FULL_MS = 20;
/** How long before a store that cannot be asked is asked again. */
const UNREACHABLE_MS = 500;

type Held = Readonly<{ limiters: readonly RateLimiter[]; taken: SlotsTaken; slots: Slots }>;

/** One request on its way through its rate limiters. */
class Entering {
  private readonly held: readonly RateLimiter[];
  private isTold = false;
  /** Since when the store cannot be asked. */
  private unreachableSince: number | undefined;

  constructor(
    private readonly limiters: readonly RateLimiter[],
    private readonly entrance: Entrance,
  ) {
    this.held = limiters.filter(({ isFree }) => !isFree);
  }

  async taken(): Promise<Taken> {
    try {
      for (;;) {
        const planned = await this.planned();
        if (!('numbers' in planned)) return planned;
        const held = this.holding(planned);
        if (planned.isFree) return { slots: held.slots };
        const end = await this.due(held);
        if (end !== 'lost') return end;
      }
    } finally {
      if (this.isTold) this.entrance.told(undefined);
    }
  }

  /** Slots that are planned, as soon as there is a place; or why there is none. */
  private async planned(): Promise<(SlotsTaken & { isFree: boolean }) | Exclude<Taken, { slots: Slots }>> {
    const { store, clock } = this.entrance;
    for (;;) {
      const planned = await this.asked(() => store.take(this.held));
      if ('unreachable' in planned || 'stopped' in planned || 'spent' in planned) return planned;
      if ('numbers' in planned) return planned;
      const until = clock.nowMs() + FULL_MS;
      if (!(await this.wait({ until, why: 'rate-limit', detail: planned.full }))) return { stopped: true };
    }
  }

  private holding(taken: SlotsTaken): Held {
    const { held: limiters, entrance } = this;
    const { store } = entrance;
    limiters.forEach(({ underWay }, i) => underWay.add(taken.numbers[i]!));
    let isSent = false;
    let isEnded = false;
    const slots: Slots = {
      number: this.limiters[0]!.isFree ? undefined : taken.numbers[0],
      sent: () => {
        if (!isSent) store.sent(limiters, taken);
        isSent = true;
      },
      ended: () => {
        if (!isEnded) store.ended(limiters, taken);
        isEnded = true;
        limiters.forEach(({ underWay }, i) => underWay.delete(taken.numbers[i]!));
      },
      drop: async () => {
        isSent = true;
        slots.ended();
        await store.giveBack(limiters, taken);
      },
    };
    return { limiters, taken, slots };
  }

  /** Waits until slots may go out; `lost` where they have to be taken anew. */
  private async due({ limiters, taken, slots }: Held): Promise<Taken | 'lost'> {
    const { store, clock, longestMs } = this.entrance;
    for (;;) {
      const hold = await this.asked(() => store.hold(limiters, taken));
      if (hold === undefined) return { slots };
      if (hold === 'lost' || 'unreachable' in hold || 'stopped' in hold) {
        slots.ended();
        return hold;
      }
      if (hold.why === 'server' && hold.until - clock.nowMs() > longestMs) {
        await slots.drop();
        return { spent: undefined, until: hold.until };
      }
      if (!(await this.wait(hold))) {
        await slots.drop();
        return { stopped: true };
      }
    }
  }

  /** Asks the store; while it cannot be asked this waits, as long as is allowed. */
  private async asked<T>(
    ask: () => T | Promise<T>,
  ): Promise<T | Readonly<{ unreachable: string } | { stopped: true }>> {
    const { clock, longestMs } = this.entrance;
    for (;;) {
      try {
        const answer = await ask();
        this.unreachableSince = undefined;
        return answer;
      } catch (error) {
        if (!(error instanceof StoreFault)) throw error;
        const now = clock.nowMs();
        this.unreachableSince ??= now;
        const left = this.unreachableSince + longestMs - now;
        if (!error.mayPass || left <= 0) return { unreachable: error.message };
        const until = now + Math.min(UNREACHABLE_MS, left);
        if (!(await this.wait({ until, why: 'shared-limits', detail: error.message }))) return { stopped: true };
      }
    }
  }

  /** Waits; false when this was stopped. */
  private async wait(hold: WaitingFor): Promise<boolean> {
    const { clock, signal, told } = this.entrance;
    told(hold);
    this.isTold = true;
    await clock.sleep(Math.max(1, hold.until - clock.nowMs()), signal);
    return !signal.aborted;
  }
}
