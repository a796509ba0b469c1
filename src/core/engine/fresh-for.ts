import type { CallStep } from '../chain/model.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { MIDNIGHT_UTC, periodAt } from '../pacing/rate-limit.ts';

/** How old a recorded response may be now, in milliseconds: of `today`, as old as the day of its API (`resets`). */
export function freshForOf({ freshFor }: CallStep, endpoint: Endpoint | undefined, nowMs: number): number | undefined {
  if (freshFor !== 'today') return freshFor;
  return nowMs - periodAt(nowMs, 'day', endpoint?.resets ?? MIDNIGHT_UTC).from;
}
