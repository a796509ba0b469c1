import type { CallStep } from '../../chain/model.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { headerOf, originKey, type HttpResponse } from '../../http/message.ts';
import type { RateLimiter, Slots, Taken } from '../../pacing/rate-limiter.ts';
import { takeSlots } from '../../pacing/rate-limiter.ts';
import { MIDNIGHT_UTC } from '../../pacing/rate-limit.ts';
import { DEFAULT_MAX_WAIT_MS } from '../../pacing/retry.ts';
import type { StepFrame } from '../frame.ts';
import type { Wait } from '../waiting.ts';

/** Requests in flight to an origin that is no api's. */
const AT_ONCE_ELSEWHERE = 6;
const NO_LIMIT = { windows: [], quotas: [] };

/** What lets a request out at its time, and takes in what the response says of the server's limits. */
export type Entered = Readonly<{
  slots: Slots;
  /** To be called when the request has ended, or is not to be sent. */
  leave(): void;
  /** Nothing to wait for where the response says nothing of limits. */
  hear(response: HttpResponse): Promise<void> | undefined;
}>;

/** The rate limiters of a request, the outer one first: that of its api or origin, and one of the call where it has a rate limit. */
export function limitersFor(
  endpoint: Endpoint | undefined,
  isOwn: boolean,
  url: string,
  step: CallStep | undefined,
  { run: { limiters }, runHost }: StepFrame,
): readonly RateLimiter[] {
  if (!endpoint || !isOwn) {
    const name = `origin ${originKey(url)}`;
    const resets = MIDNIGHT_UTC;
    return [
      limiters.limiter({
        name,
        rateLimit: NO_LIMIT,
        resets,
        concurrency: AT_ONCE_ELSEWHERE,
        maxWaitMs: DEFAULT_MAX_WAIT_MS,
      }),
    ];
  }
  const { api, deployment, rateLimit, resets, concurrency, totalConcurrency, maxWaitMs } = endpoint;
  const place = `${api}@${deployment ?? ''}`;
  const outer = limiters.limiter({ name: place, rateLimit, resets, concurrency, totalConcurrency, maxWaitMs });
  if (!step?.rateLimit) return [outer];
  const name = `${place} ${runHost.inProject(step.nameSource.file)} ${step.name}`;
  return [outer, limiters.limiter({ name, rateLimit: step.rateLimit, resets, concurrency: Infinity, maxWaitMs })];
}

/**
 * Waits for a place among those in flight, and for a slot in each rate limiter. Nothing is let out any more when the run is to
 * stop, or when a quota is spent; then the run pauses, unless it is told to stay.
 */
export async function admit(limiters: readonly RateLimiter[], context: StepFrame): Promise<Entered | undefined> {
  const step = context.address;
  const {
    run: { pausing, waits, limiters: all, clock, recorder },
  } = context;
  const [outer] = limiters;
  const { semaphore, options } = outer!;
  if (!semaphore.tryTake() && !(await semaphore.take(pausing.signal))) return undefined;
  for (;;) {
    let wait: Wait | undefined;
    const taken: Taken = await takeSlots(limiters, {
      store: all.store,
      clock,
      signal: pausing.signal,
      longestMs: options.maxWaitMs,
      told: (hold) => {
        if (hold && !wait) wait = waits.begin(hold.why, step, { detail: hold.detail, until: hold.until });
        if (!hold && wait) recorder.record(...wait.end());
      },
    });
    if ('slots' in taken) {
      const { slots } = taken;
      const leave = () => {
        slots.ended();
        semaphore.give();
      };
      const { id } = context.run;
      return { slots, leave, hear: (response) => hear(outer!, response, slots.number, id) };
    }
    if ('stopped' in taken || pausing.signal.aborted) break;
    if ('unreachable' in taken) {
      pausing.begin({ why: 'shared-limits', step, detail: taken.unreachable });
      break;
    }
    if (!context.run.settings.waitForQuota) {
      const detail =
        taken.spent === undefined ? 'the server closed this rate limit' : `the quota ${taken.spent} is spent`;
      pausing.begin({ why: 'quota', step, until: taken.until, detail });
      break;
    }
    const quota = waits.begin('quota', step, {
      ...(taken.spent === undefined ? {} : { detail: taken.spent }),
      until: taken.until,
    });
    await clock.sleep(Math.max(1, taken.until - clock.nowMs()), pausing.signal);
    recorder.record(...quota.end());
  }
  semaphore.give();
  return undefined;
}

/** Few responses say anything of limits: the names of their headers tell. */
function hear(
  limiter: RateLimiter,
  { status, headers }: HttpResponse,
  slot: number | undefined,
  run: string,
): Promise<void> | undefined {
  const speaks = headers.some(([name]) => /^(x-)?rate-?limit|^retry-after$/i.test(name));
  if (!speaks) return undefined;
  return limiter.recordServerLimits(status, (name) => headerOf(headers, name), slot, run);
}
