// A slot of a rate limiter where there is no need to wait, against the making and removing of a file, which its lock takes at least.
import { linkSync, mkdtempSync, rmSync, unlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { loadCore } from './core.mjs';
import { note } from './measure.mjs';

const SLOTS = 5000;

export async function measureSlots() {
  const core = await loadCore();
  const {
    takeSlots,
    RateLimiter,
    rateLimitOf,
    readRateLimit,
    MIDNIGHT_UTC,
    limiterFiles,
    LockedLimiters,
    systemClock,
  } = core;
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const never = new AbortController().signal;
  const timed = async (limits) => {
    const store = new LockedLimiters(limiterFiles(folder), systemClock);
    const rateLimit = rateLimitOf(limits.map(readRateLimit));
    const limiter = new RateLimiter(
      { name: limits.join(), rateLimit, resets: MIDNIGHT_UTC, concurrency: 8, maxWaitMs: 60_000 },
      store,
      systemClock,
    );
    const started = performance.now();
    for (let i = 0; i < SLOTS; i++) {
      const { slots } = await takeSlots([limiter], {
        store,
        clock: systemClock,
        signal: never,
        longestMs: 60_000,
        told: () => {},
      });
      slots.sent();
      slots.ended();
    }
    store.close();
    return ((performance.now() - started) / SLOTS) * 1000;
  };
  await timed(['900000/s']);
  const paced = Math.min(...[await timed(['900000/s', '90000000/day']), await timed(['900000/s', '90000000/day'])]);
  const free = await timed([]);
  const mark = path.join(folder, 'mark');
  writeFileSync(mark, '');
  const started = performance.now();
  for (let i = 0; i < SLOTS; i++) {
    linkSync(mark, `${mark}.lock`);
    unlinkSync(`${mark}.lock`);
  }
  const floor = ((performance.now() - started) / SLOTS) * 1000;
  rmSync(folder, { recursive: true, force: true });
  console.log(
    `a slot: ${paced.toFixed(1)} µs with a rate limit, ${free.toFixed(2)} µs without (bar 50 µs, and nothing)`,
  );
  note(
    'a slot, against making and removing a name',
    paced / floor,
    8,
    `${paced.toFixed(1)} µs against ${floor.toFixed(1)}`,
  );
}
