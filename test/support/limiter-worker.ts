import { Agent, request } from 'node:http';
import { systemClock } from '../../src/adapters/clock.ts';
import { limiterFiles } from '../../src/adapters/limiter-files.ts';
import { RedisLimiters } from '../../src/adapters/redis/redis-limiters.ts';
import { LockedLimiters } from '../../src/core/pacing/locked-limiters.ts';
import { RateLimiter, takeSlots } from '../../src/core/pacing/rate-limiter.ts';
import { MIDNIGHT_UTC, rateLimitOf, readRateLimit } from '../../src/core/pacing/rate-limit.ts';

/**
 * A process that sends as fast as its rate limiter lets it, until the quota is spent: `limiter-worker STORE URL RATE...`. The
 * store is a folder or the URL of a Redis; CLOCK_AHEAD are milliseconds by which its clock is wrong.
 */
const [kept = '', url = '', ...rateLimits] = process.argv.slice(2);
const ahead = Number(process.env['CLOCK_AHEAD'] ?? 0);
const clock = { ...systemClock, nowMs: () => systemClock.nowMs() + ahead };
const store = kept.startsWith('redis:')
  ? new RedisLimiters(kept, 'test', clock)
  : new LockedLimiters(limiterFiles(kept), clock);
const rateLimit = rateLimitOf(rateLimits.map((each) => readRateLimit(each)!));
const limiter = new RateLimiter(
  { name: 'a', rateLimit, resets: MIDNIGHT_UTC, concurrency: 3, maxWaitMs: 60_000 },
  store,
  clock,
);
const agent = new Agent({ keepAlive: true, maxSockets: 3 });
const never = new AbortController().signal;

async function work(): Promise<void> {
  for (;;) {
    const taken = await takeSlots([limiter], { store, clock, signal: never, longestMs: 60_000, told: () => {} });
    if (!('slots' in taken)) return;
    await new Promise<void>((resolve) => {
      const sending = request(url, { agent }, (response) => response.resume().on('end', resolve));
      const go = () => {
        // By its own clock, and before the limiter hears of it: how long anything takes on a busy machine says nothing here.
        sending.setHeader('x-sent', String(performance.timeOrigin + performance.now()));
        taken.slots.sent();
        sending.end();
      };
      // It goes out when the connection is there.
      sending.on('socket', (socket) => (socket.connecting ? socket.once('connect', go) : go()));
    });
    taken.slots.ended();
  }
}

void Promise.all([work(), work(), work()]).then(() => {
  agent.destroy();
  store.close();
});
