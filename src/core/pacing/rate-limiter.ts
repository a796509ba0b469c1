import type { Clock } from '../ports.ts';
import { emptyHead, type LimiterState, type LimiterStore, type SharedLimiter } from './limiter-state.ts';
import type { RateLimit, Resets } from './rate-limit.ts';
import { Semaphore } from './semaphore.ts';
import { earliest, giveBack, holdOf, quotasAt, takeSlot, type Hold, type LimiterRules } from './schedule.ts';
import { remainingIn, retryAfterMs, type FieldOf } from './server-signals.ts';

/** What a rate limiter is made of. */
export type LimiterOptions = Readonly<{
  name: string;
  rateLimit: RateLimit;
  resets: Resets;
  /** Requests in flight at the same time, in this process. */
  concurrency: number;
  /** No hold that a server's remaining count asks for is longer. */
  maxWaitMs: number;
}>;

/** Slots that are remembered beyond those of the longest window: as many as may be planned ahead. */
const PLANNED_AHEAD = 1024;

/** One way to a server, which all requests to it keep to. Without a rate limit, and as long as the server says nothing, it is free. */
export class RateLimiter {
  readonly semaphore: Semaphore;
  readonly rules: LimiterRules;
  shared: SharedLimiter | undefined;
  /** Slots of this process that are not answered yet. */
  readonly underWay = new Set<number>();

  constructor(
    readonly options: LimiterOptions,
    private readonly store: LimiterStore,
    private readonly clock: Clock,
  ) {
    const { rateLimit, resets, name } = options;
    this.semaphore = new Semaphore(options.concurrency);
    this.rules = { rateLimit, resets };
    if (rateLimit.windows.length + rateLimit.quotas.length > 0 || store.has(name)) this.share();
  }

  private share(): SharedLimiter {
    const { rateLimit, name } = this.options;
    const slots = Math.max(0, ...rateLimit.windows.map(({ count }) => count)) + PLANNED_AHEAD;
    const windowMs = Math.max(1000, ...rateLimit.windows.map(({ milliseconds }) => milliseconds));
    return (this.shared ??= this.store.open(name, slots, windowMs));
  }

  /** Takes in what a response says of its server's limits. `slot` is that of its request. */
  async recordServerLimits(status: number, fieldOf: FieldOf, slot: number | undefined, run: string): Promise<void> {
    const now = this.clock.nowMs();
    const closes = status === 429 || status === 503 ? retryAfterMs(fieldOf, now) : undefined;
    const left = remainingIn(fieldOf, now);
    if (closes === undefined && left.length === 0) return;
    const limiter = this.share();
    await this.store.withLock([limiter], ([state]) => {
      const { head } = state!;
      if (closes !== undefined && now + closes > head.closedUntil) {
        head.closedUntil = now + closes;
        head.closedBy = { status, field: `Retry-After: ${(fieldOf('retry-after') ?? '').slice(0, 60)}`, at: now, run };
      }
      const by = slot ?? Math.min(head.taken, ...this.underWay) - 1;
      if (by < head.heardBy) return;
      head.heardBy = by;
      // Of those before it that are under way the server may not have counted any yet.
      const before = [...this.underWay].filter((each) => each < by).length;
      const others = slot === undefined ? Math.max(0, this.semaphore.inUse - 1) : before;
      head.budgets = left.map(({ remaining, resetMs }) => ({
        limit: by + 1 + Math.max(0, remaining - others),
        until: now + Math.min(resetMs, this.options.maxWaitMs),
        name: `${remaining} left`,
      }));
    });
  }

  /** What is used of its quotas now. */
  quotas(now: number): ReturnType<typeof quotasAt> {
    return quotasAt(this.shared?.look().head ?? emptyHead(), this.rules, now);
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
  | Readonly<{ stopped: true }>;

/** Told when something begins to wait, and once more with nothing when that wait is over. */
type WaitTold = (hold: Hold | undefined) => void;

const FREE: Taken = { slots: { number: undefined, sent: () => {}, ended: () => {}, drop: async () => {} } };

/** Takes a slot in each rate limiter, in all or in none, and waits for its time; at once where the rate limiters are free. */
export function takeSlots(
  limiters: readonly RateLimiter[],
  store: LimiterStore,
  clock: Clock,
  signal: AbortSignal,
  /** A server that closes a rate limiter for longer is not waited for. */
  longestMs: number,
  told: WaitTold,
): Taken | Promise<Taken> {
  const isFree = limiters.every((limiter) => limiter.shared === undefined);
  return isFree ? FREE : takeShared(limiters, store, clock, signal, longestMs, told);
}

async function takeShared(
  ...[limiters, store, clock, signal, longestMs, told]: Parameters<typeof takeSlots>
): Promise<Taken> {
  const held = limiters.filter((limiter) => limiter.shared !== undefined);
  const shared = held.map((limiter) => limiter.shared!);
  const planned = await store.withLock(shared, (states) => plan(held, shared, states, store, clock.nowMs()));
  if ('spent' in planned) return planned;
  const { numbers } = planned;
  held.forEach((limiter, i) => limiter.underWay.add(numbers[i]!));
  let isSent = false;
  const slots: Slots = {
    number: limiters[0]!.shared ? numbers[0] : undefined,
    sent: () => {
      if (isSent) return;
      isSent = true;
      const at = clock.nowMs();
      shared.forEach((limiter, i) => limiter.put(numbers[i]!, { at }));
    },
    ended: () => held.forEach((limiter, i) => limiter.underWay.delete(numbers[i]!)),
    drop: async () => {
      slots.sent();
      slots.ended();
      await store.withLock(shared, (states) =>
        states.forEach((state, i) => giveBack(state, held[i]!.rules, clock.nowMs())),
      );
    },
  };
  if (planned.isFree) return { slots };
  const isAlive = (owner: number) => store.isAlive(owner);
  let isTold = false;
  let { at } = planned;
  for (;;) {
    const now = clock.nowMs();
    const holds = shared.flatMap(
      (limiter, i) => holdOf(limiter.look(), held[i]!.rules, numbers[i]!, now, isAlive) ?? [],
    );
    const [hold] = holds.sort((left, right) => right.until - left.until);
    if (!hold) break;
    if (hold.why === 'server' && hold.until - now > longestMs) {
      if (isTold) told(undefined);
      await slots.drop();
      return { spent: undefined, until: hold.until };
    }
    told(hold);
    isTold = true;
    // Who comes behind plans by it.
    if (hold.until > at) {
      at = hold.until;
      shared.forEach((limiter, i) => limiter.put(numbers[i]!, { at, owner: store.owner }));
    }
    await clock.sleep(Math.max(1, hold.until - now), signal);
    if (signal.aborted) {
      told(undefined);
      await slots.drop();
      return { stopped: true };
    }
  }
  if (isTold) told(undefined);
  return { slots };
}

type Planned =
  Readonly<{ numbers: readonly number[]; at: number; isFree: boolean }> | Readonly<{ spent: string; until: number }>;

function plan(
  limiters: readonly RateLimiter[],
  shared: readonly SharedLimiter[],
  states: readonly LimiterState[],
  { owner, isAlive }: LimiterStore,
  now: number,
): Planned {
  for (const [i, { rules }] of limiters.entries()) {
    const spent = quotasAt(states[i]!.head, rules, now).find(({ used, count }) => used >= count);
    if (spent) return { spent: spent.text, until: spent.until };
  }
  const at = Math.max(...limiters.map(({ rules }, i) => earliest(states[i]!, rules, now)));
  const numbers = limiters.map(({ rules }, i) => takeSlot(states[i]!, rules, now));
  shared.forEach((limiter, i) => limiter.put(numbers[i]!, { at, owner }));
  const isFree =
    at <= now && limiters.every(({ rules }, i) => !holdOf(states[i]!, rules, numbers[i]!, now, (one) => isAlive(one)));
  return { numbers, at, isFree };
}
