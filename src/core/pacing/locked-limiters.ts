import type { Clock } from '../ports.ts';
import type { LimiterState, LockedStore, StoredLimiter } from './limiter-state.ts';
import type { Heard, Limiter, LimiterNow, LimiterStore, Planned, SlotsTaken } from './limiter-store.ts';
import { earliest, giveBack, holdOf, quotasAt, takeSlot, type Hold } from './schedule.ts';

/** Slots that are remembered beyond those of the longest window: as many as may be planned ahead. */
export const PLANNED_AHEAD = 1024;

/** Slots that a rate limiter remembers, and its longest window in milliseconds. */
export function sizeOf({ rules: { rateLimit } }: Limiter): Readonly<{ slots: number; windowMs: number }> {
  return {
    slots: Math.max(0, ...rateLimit.windows.map(({ count }) => count)) + PLANNED_AHEAD,
    windowMs: Math.max(1000, ...rateLimit.windows.map(({ milliseconds }) => milliseconds)),
  };
}

/** Rate limiters that are kept where they are worked on under a lock: in memory, or in the files of a project. */
export class LockedLimiters implements LimiterStore {
  readonly isShared = false;
  private readonly opened = new WeakMap<Limiter, StoredLimiter>();

  constructor(
    private readonly store: LockedStore,
    private readonly clock: Clock,
  ) {}

  private stored(limiter: Limiter): StoredLimiter {
    let stored = this.opened.get(limiter);
    if (!stored) {
      const { slots, windowMs } = sizeOf(limiter);
      this.opened.set(limiter, (stored = this.store.open(limiter.name, slots, windowMs)));
    }
    return stored;
  }

  has(name: string): boolean {
    return this.store.has(name);
  }

  take(limiters: readonly Limiter[]): Promise<Planned> {
    const stored = limiters.map((limiter) => this.stored(limiter));
    return this.store.withLock(stored, (states) => this.plan(limiters, stored, states));
  }

  private plan(
    limiters: readonly Limiter[],
    stored: readonly StoredLimiter[],
    states: readonly LimiterState[],
  ): Planned {
    const now = this.clock.nowMs();
    const { owner } = this.store;
    for (const [i, { rules }] of limiters.entries()) {
      const spent = quotasAt(states[i]!.head, rules, now).find(({ used, count }) => used >= count);
      if (spent) return { spent: spent.text, until: spent.until };
    }
    const at = Math.max(...limiters.map(({ rules }, i) => earliest(states[i]!, rules, now)));
    const numbers = limiters.map(({ rules }, i) => takeSlot(states[i]!, rules, now));
    stored.forEach((limiter, i) => limiter.put(numbers[i]!, { at, owner }));
    const isFree = at <= now && !this.holdBy(limiters, states, numbers, now);
    return { numbers, owner, isFree };
  }

  hold(limiters: readonly Limiter[], { numbers, owner }: SlotsTaken): Hold | undefined {
    const stored = limiters.map((limiter) => this.stored(limiter));
    const states = stored.map((limiter) => limiter.look());
    const hold = this.holdBy(limiters, states, numbers, this.clock.nowMs());
    const at = states[0]?.slot(numbers[0]!)?.at ?? 0;
    if (hold && hold.until > at) stored.forEach((limiter, i) => limiter.put(numbers[i]!, { at: hold.until, owner }));
    return hold;
  }

  /** What holds slots back for longest. */
  private holdBy(
    limiters: readonly Limiter[],
    states: readonly LimiterState[],
    numbers: readonly number[],
    now: number,
  ): Hold | undefined {
    const isAlive = (owner: number) => this.store.isAlive(owner);
    const holds = limiters.flatMap(({ rules }, i) => holdOf(states[i]!, rules, numbers[i]!, now, isAlive) ?? []);
    return holds.sort((left, right) => right.until - left.until)[0];
  }

  sent(limiters: readonly Limiter[], { numbers }: SlotsTaken): void {
    const at = this.clock.nowMs();
    limiters.forEach((limiter, i) => this.stored(limiter).put(numbers[i]!, { at }));
  }

  ended(): void {}

  async giveBack(limiters: readonly Limiter[], taken: SlotsTaken): Promise<void> {
    this.sent(limiters, taken);
    const now = this.clock.nowMs();
    await this.store.withLock(
      limiters.map((limiter) => this.stored(limiter)),
      (states) => states.forEach((state, i) => giveBack(state, limiters[i]!.rules, now)),
    );
  }

  async hear(limiter: Limiter, heard: Heard): Promise<void> {
    await this.store.withLock([this.stored(limiter)], ([state]) => takeIn(state!, heard, this.clock.nowMs()));
  }

  present(): Promise<ReadonlyMap<string, LimiterNow>> {
    const now = (name: string): LimiterNow => {
      const { head } = this.store.open(name, 1, 1000).look();
      return { head, waiting: new Map(), inFlight: new Map() };
    };
    return Promise.resolve(new Map(this.store.names().map((name) => [name, now(name)])));
  }

  async open(name: string): Promise<void> {
    await this.store.withLock([this.store.open(name, 1, 1000)], ([state]) => {
      Object.assign(state!.head, { closedUntil: 0, closedBy: undefined, budgets: [] });
    });
  }

  close(): void {
    this.store.close();
  }
}

/** Takes in what a response says of its server's limits. */
function takeIn({ head }: LimiterState, { closes, left, maxWaitMs, slot, underWay, inUse }: Heard, now: number): void {
  if (closes !== undefined && now + closes.ms > head.closedUntil) {
    const { status, field, run } = closes;
    head.closedUntil = now + closes.ms;
    head.closedBy = { status, field, at: now, run };
  }
  const by = slot ?? Math.min(head.taken, ...underWay) - 1;
  if (by < head.heardBy) return;
  head.heardBy = by;
  // Of those before it that are under way the server may not have counted any yet.
  const before = underWay.filter((each) => each < by).length;
  const others = slot === undefined ? Math.max(0, inUse - 1) : before;
  head.budgets = left.map(({ remaining, resetMs }) => ({
    limit: by + 1 + Math.max(0, remaining - others),
    until: now + Math.min(resetMs, maxWaitMs),
    name: `${remaining} left`,
  }));
}
