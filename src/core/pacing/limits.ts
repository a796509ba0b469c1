import type { Closing } from './limiter-state.ts';
import type { LimiterNow } from './limiter-store.ts';
import type { RateLimit } from './rate-limit.ts';
import { quotasAt, type LimiterRules } from './schedule.ts';

/** What is known of one rate limiter at a moment; times in milliseconds since 1970. */
export type LimitState = Readonly<{
  name: string;
  /** The windows as the project writes them; nothing where it has none, or no longer knows the limiter. */
  rate: string | undefined;
  quotas: readonly Readonly<{ text: string; count: number; used: number; resetsAt: number }>[];
  closed: Readonly<{ until: number; by: Closing | undefined }> | undefined;
  /** Who is at it now, of all machines: requests that wait, and that are in flight. */
  processes: readonly Readonly<{ id: string; waiting: number; inFlight: number }>[];
}>;

/** What is known of rate limiters, with the rules that the project has for them. */
export function limitStates(
  present: ReadonlyMap<string, LimiterNow>,
  rulesOf: (name: string) => LimiterRules | undefined,
  now: number,
): readonly LimitState[] {
  return [...present].map(([name, { head, waiting, inFlight }]) => {
    const rules = rulesOf(name);
    const quotas = rules ? quotasAt(head, rules, now) : [];
    return {
      name,
      rate: rules && ratesOf(rules.rateLimit),
      quotas: quotas.map(({ text, count, used, until }) => ({ text, count, used, resetsAt: until })),
      closed: head.closedUntil > now ? { until: head.closedUntil, by: head.closedBy } : undefined,
      processes: processesOf(waiting, inFlight),
    };
  });
}

function processesOf(
  waiting: ReadonlyMap<string, number>,
  inFlight: ReadonlyMap<string, number>,
): LimitState['processes'] {
  const ids = [...new Set([...waiting.keys(), ...inFlight.keys()])].sort();
  return ids.map((id) => ({ id, waiting: waiting.get(id) ?? 0, inFlight: inFlight.get(id) ?? 0 }));
}

function ratesOf({ windows }: RateLimit): string | undefined {
  return windows.length === 0 ? undefined : windows.map(({ text }) => text).join(', ');
}
