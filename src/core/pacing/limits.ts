import type { Closing, LimiterStore } from './limiter-state.ts';
import type { RateLimit } from './rate-limit.ts';
import { quotasAt, type LimiterRules } from './schedule.ts';

/** What is known of one rate limiter at a moment; times in milliseconds since 1970. */
export type LimitState = Readonly<{
  name: string;
  /** The windows as the project writes them; nothing where it has none, or no longer knows the limiter. */
  rate: string | undefined;
  quotas: readonly Readonly<{ text: string; count: number; used: number; resetsAt: number }>[];
  closed: Readonly<{ until: number; by: Closing | undefined }> | undefined;
}>;

/** Every rate limiter that is kept, with the rules that the project has for it. */
export function limitStates(
  store: LimiterStore,
  rulesOf: (name: string) => LimiterRules | undefined,
  now: number,
): readonly LimitState[] {
  return store.names().map((name) => {
    const rules = rulesOf(name);
    const { head } = store.open(name, 1, 1000).look();
    const quotas = rules ? quotasAt(head, rules, now) : [];
    return {
      name,
      rate: rules && ratesOf(rules.rateLimit),
      quotas: quotas.map(({ text, count, used, until }) => ({ text, count, used, resetsAt: until })),
      closed: head.closedUntil > now ? { until: head.closedUntil, by: head.closedBy } : undefined,
    };
  });
}

function ratesOf({ windows }: RateLimit): string | undefined {
  return windows.length === 0 ? undefined : windows.map(({ text }) => text).join(', ');
}

/** Opens a rate limiter that a server closed, and forgets what it said is left. What was used of quotas stays. */
export async function openLimiter(store: LimiterStore, name: string): Promise<void> {
  await store.withLock([store.open(name, 1, 1000)], ([state]) => {
    Object.assign(state!.head, { closedUntil: 0, closedBy: undefined, budgets: [] });
  });
}
