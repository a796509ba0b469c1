import type { LimiterHead, LimiterState, Slot } from './limiter-state.ts';
import { keptLength, periodAt, type RateLimit, type Quota, type Resets } from './rate-limit.ts';

/** What a rate limiter is held to. */
export type LimiterRules = Readonly<{ rateLimit: RateLimit; resets: Resets }>;

/** Why something waits, and until when: milliseconds since 1970. */
export type Hold = Readonly<{ until: number; why: 'rate-limit' | 'server'; detail: string }>;

/** How long to wait for a slot that is due and that another one has not sent yet. */
const LOOK_AGAIN_MS = 10;

/** What was used of each quota in its present period, and when the next one begins. */
export function quotasAt(head: LimiterHead, { rateLimit, resets }: LimiterRules, now: number) {
  return rateLimit.quotas.map((quota) => {
    const { from, until } = periodOf(head, quota.period, resets, now);
    const counted = head.quotas[quota.period];
    return { ...quota, used: counted?.from === from ? counted.used : 0, until };
  });
}

/** The period to count in. It never goes back: while a clock is behind, counting goes on in the later period. */
function periodOf(head: LimiterHead, period: Quota['period'], resets: Resets, now: number) {
  const present = periodAt(now, period, resets);
  const counted = head.quotas[period]?.from ?? -Infinity;
  return counted > present.from ? periodAt(counted, period, resets) : present;
}

/** What is counted: sendings of a period, whatever number of them is allowed. */
function periodsOf({ quotas }: RateLimit): Iterable<Quota['period']> {
  return quotas.length === 0 ? [] : new Set(quotas.map(({ period }) => period));
}

/** The earliest time at which the next slot may go out, by what is known now. */
export function earliest({ head, slot }: LimiterState, { rateLimit }: LimiterRules, now: number): number {
  const number = head.taken;
  return rateLimit.windows.reduce(
    (at, window) => {
      const before = slot(number - window.count);
      return before ? Math.max(at, stampOf(before, now, keptLength(window)) + keptLength(window)) : at;
    },
    Math.max(now, head.closedUntil, budgetHold(head, number, now)?.until ?? 0),
  );
}

/** Takes the next slot, and counts it. Its time is put down by who takes it. */
export function takeSlot({ head }: LimiterState, { rateLimit, resets }: LimiterRules, now: number): number {
  const number = head.taken++;
  for (const period of periodsOf(rateLimit)) {
    const { from } = periodOf(head, period, resets, now);
    const counted = head.quotas[period];
    head.quotas[period] = { from, used: counted?.from === from ? counted.used + 1 : 1 };
  }
  return number;
}

/** Gives back what a slot counted that was never sent. Its time stays taken, which only makes others later. */
export function giveBack({ head }: LimiterState, { rateLimit, resets }: LimiterRules, now: number): void {
  for (const period of periodsOf(rateLimit)) {
    const counted = head.quotas[period];
    if (counted && counted.from === periodOf(head, period, resets, now).from && counted.used > 0) counted.used--;
  }
}

/**
 * What holds a slot back at this moment; nothing when it may go out. The slot that is a whole window's count before it
 * must have been sent, or never be sent any more, a whole window ago.
 */
export function holdOf(
  { head, slot }: LimiterState,
  { rateLimit }: LimiterRules,
  number: number,
  now: number,
  isAlive: (owner: number) => boolean,
): Hold | undefined {
  if (head.closedUntil > now) return { until: head.closedUntil, why: 'server', detail: 'the server asked for it' };
  const budget = budgetHold(head, number, now);
  if (budget) return budget;
  for (const window of rateLimit.windows) {
    // One whose sender is gone was never sent, so it is the one before it that counts.
    let at = number - window.count;
    let before = slot(at);
    while (before?.owner !== undefined && !isAlive(before.owner)) before = slot(--at);
    if (!before) continue;
    const length = keptLength(window);
    const until = stampOf(before, now, length) + length;
    if (until > now) return { until, why: 'rate-limit', detail: window.text };
    if (before.owner !== undefined) return { until: now + LOOK_AGAIN_MS, why: 'rate-limit', detail: window.text };
  }
  return undefined;
}

function budgetHold({ budgets }: LimiterHead, number: number, now: number): Hold | undefined {
  const held = budgets.filter(({ limit, until }) => number >= limit && until > now);
  const [first] = held.sort((left, right) => right.until - left.until);
  return first && { until: first.until, why: 'server', detail: first.name };
}

/** What was sent cannot be in the future: a stamp from a clock that was ahead by more than a window is read as now. */
function stampOf({ at, owner }: Slot, now: number, length: number): number {
  return owner === undefined && at > now + length ? now : at;
}
