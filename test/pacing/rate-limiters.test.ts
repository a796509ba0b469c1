import fc from 'fast-check';
import { RateLimiter, takeSlots } from '../../src/core/pacing/rate-limiter.ts';
import { MemoryLimiters } from '../../src/core/pacing/limiter-state.ts';
import { MIDNIGHT_UTC, rateLimitOf, readRateLimit } from '../../src/core/pacing/rate-limit.ts';
import { LockedLimiters } from '../../src/core/pacing/locked-limiters.ts';
import { quotasAt } from '../../src/core/pacing/schedule.ts';
import { VirtualClock } from '../../src/core/pacing/virtual-clock.ts';

const NEVER = new AbortController().signal;
const START = Date.parse('2026-05-23T10:00:00Z');
const idle = () => new Promise<void>((resolve) => setImmediate(resolve));

type Plan = Readonly<{
  rateLimits: readonly string[];
  requests: number;
  concurrency: number;
  latencyMs: number;
  delayMs: number;
}>;

/** Sends as many requests as planned from several workers, and gives when each reached the server. */
async function reached(
  { rateLimits, requests, concurrency, latencyMs, delayMs }: Plan,
  answer: (at: number, count: number) => readonly [number, Readonly<Record<string, string>>] = () => [200, {}],
): Promise<readonly number[]> {
  const clock = new VirtualClock(START, idle);
  const store = new LockedLimiters(new MemoryLimiters(), clock);
  const rateLimit = rateLimitOf(rateLimits.map((each) => readRateLimit(each)!));
  const options = { name: 'a', rateLimit, resets: MIDNIGHT_UTC, concurrency, maxWaitMs: 3_600_000 };
  const limiter = new RateLimiter(options, store, clock);
  const arrivals: number[] = [];
  let left = requests;
  const worker = async (number: number): Promise<void> => {
    while (left-- > 0) {
      await limiter.semaphore.take(NEVER);
      const taken = await takeSlots([limiter], { store, clock, signal: NEVER, longestMs: 3_600_000, told: () => {} });
      if (!('slots' in taken)) throw new Error('No quota is spent here');
      // Connecting takes a while that differs from worker to worker.
      await clock.sleep((delayMs * number) / 4, NEVER);
      taken.slots.sent();
      // On its way to the server it may lose some of the time by which it was kept apart.
      const at = clock.nowMs() + (arrivals.length % 3 === 0 ? 19 : 0);
      arrivals.push(at);
      const [status, headers] = answer(at, arrivals.length);
      await clock.sleep(latencyMs, NEVER);
      await limiter.recordServerLimits(status, (name) => headers[name], taken.slots.number, 'test');
      taken.slots.ended();
      limiter.semaphore.give();
    }
  };
  await clock.run(Promise.all(Array.from({ length: concurrency }, (_, i) => worker(i))).then(() => undefined));
  return arrivals.sort((one, other) => one - other);
}

const mostIn = (arrivals: readonly number[], windowMs: number): number =>
  Math.max(0, ...arrivals.map((from) => arrivals.filter((at) => at >= from && at < from + windowMs).length));

const WINDOWS = { s: 1000, min: 60_000, h: 3_600_000 } as const;
const rateLimit = fc.tuple(fc.integer({ min: 1, max: 40 }), fc.constantFrom('s', 'min', 'h'));

test('no window ever holds more than its rate limit, counted at the server, and there is no idling while there is work', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(rateLimit, { minLength: 1, maxLength: 3 }),
      fc.integer({ min: 1, max: 150 }),
      fc.integer({ min: 1, max: 12 }),
      fc.integer({ min: 0, max: 300 }),
      fc.constantFrom(0, 0, 40),
      async (said, requests, concurrency, latencyMs, delayMs) => {
        const rateLimits = said.map(([count, unit]) => `${count}/${unit}`);
        const arrivals = await reached({ rateLimits, requests, concurrency, latencyMs, delayMs });
        expect(arrivals).toHaveLength(requests);
        for (const [count, unit] of said) expect(mostIn(arrivals, WINDOWS[unit])).toBeLessThanOrEqual(count);
        // Whole windows that the tightest rate limit needs, and what the latency of as many workers adds.
        const took = arrivals.at(-1)! - START;
        const byRateLimit = Math.max(
          ...said.map(
            ([count, unit]) => Math.floor((requests - 1) / count) * Math.max(1.01 * WINDOWS[unit], WINDOWS[unit] + 20),
          ),
        );
        const byWork = Math.ceil(requests / concurrency) * (latencyMs + delayMs) + 20;
        if (said.length === 1 && delayMs === 0) expect(took).toBeLessThanOrEqual(byRateLimit + byWork);
      },
    ),
    { numRuns: 60 },
  );
});

test.each(['5/s', '30/min', '8/s'])('at %s nearly all of the rate limit is used while there is work', async (said) => {
  const { count, milliseconds } = readRateLimit(said) as { count: number; milliseconds: number };
  const requests = count * 50;
  const arrivals = await reached({ rateLimits: [said], requests, concurrency: count, latencyMs: 5, delayMs: 0 });
  const perWindow = (requests - count) / ((arrivals.at(-1)! - arrivals[0]!) / milliseconds);
  expect(perWindow / count).toBeGreaterThanOrEqual(0.98);
});

test('what a server says is left is never used up, whoever asks', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 20 }),
      fc.integer({ min: 1, max: 8 }),
      fc.integer({ min: 0, max: 50 }),
      async (limit, concurrency, latencyMs) => {
        // The server counts in fixed windows of 10 s from its first request on.
        let windowFrom = 0;
        let used = 0;
        let refused = 0;
        await reached({ rateLimits: [], requests: 60, concurrency, latencyMs, delayMs: 0 }, (at) => {
          if (at >= windowFrom + 10_000) [windowFrom, used] = [at, 0];
          const left = Math.max(0, limit - ++used);
          if (used > limit) refused++;
          const seconds = Math.ceil((windowFrom + 10_000 - at) / 1000) + 1;
          return [
            used > limit ? 429 : 200,
            { ratelimit: `"default";r=${left};t=${seconds}`, 'retry-after': String(seconds) },
          ];
        });
        // Until the first answer is there nothing is known, nor in each new window.
        expect(refused).toBeLessThanOrEqual(Math.max(0, concurrency - limit) * 60);
        if (concurrency <= limit) expect(refused).toBe(0);
      },
    ),
    { numRuns: 40 },
  );
});

test('a quota: taken until it is spent, and again from its reset on', async () => {
  const clock = new VirtualClock(START, idle);
  const store = new LockedLimiters(new MemoryLimiters(), clock);
  const rules = {
    name: 'a',
    rateLimit: rateLimitOf([readRateLimit('3/day')!]),
    resets: MIDNIGHT_UTC,
    concurrency: 1,
    maxWaitMs: 60_000,
  };
  const limiter = new RateLimiter(rules, store, clock);
  const take = () => takeSlots([limiter], { store, clock, signal: NEVER, longestMs: 60_000, told: () => {} });
  for (let i = 0; i < 3; i++) {
    const taken = await take();
    expect(taken).toHaveProperty('slots');
    // One that is not sent after all gives back what it counted.
    if (i === 0 && 'slots' in taken) await taken.slots.drop();
  }
  expect(await take()).toHaveProperty('slots');
  expect(await take()).toEqual({ spent: '3/day', until: Date.parse('2026-05-24T00:00:00Z') });
  await clock.run(clock.sleep(14 * 3_600_000, NEVER));
  expect(await take()).toHaveProperty('slots');
  // Another number for the same period counts on from what was used, day by day and month by month.
  const { head } = (await store.present()).get('a')!;
  const changed = (...texts: readonly string[]) => {
    const rateLimit = rateLimitOf(texts.map((text) => readRateLimit(text)!));
    return quotasAt(head, { rateLimit, resets: MIDNIGHT_UTC }, clock.nowMs()).map(({ used }) => used);
  };
  expect(changed('500/day', '9/month')).toEqual([1, 0]);
  expect(changed('1/day')).toEqual([1]);
});
