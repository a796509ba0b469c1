import { buildSync } from 'esbuild';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { systemClock } from '../../src/adapters/clock.ts';
import { limiterFiles } from '../../src/adapters/limiter-files.ts';
import { RedisLimiters } from '../../src/adapters/redis/redis-limiters.ts';
import type { Limiter, LimiterStore, Planned } from '../../src/core/pacing/limiter-store.ts';
import { LockedLimiters } from '../../src/core/pacing/locked-limiters.ts';
import { MIDNIGHT_UTC, rateLimitOf, readRateLimit } from '../../src/core/pacing/rate-limit.ts';
import { describeWith } from '../support/needs.ts';
import { startRedis, type TestRedis } from '../support/redis.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'batharon-limiters-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const limiter = (name: string, ...rates: readonly string[]): Limiter => ({
  name,
  rules: { rateLimit: rateLimitOf(rates.map((each) => readRateLimit(each)!)), resets: MIDNIGHT_UTC },
});

type Slots = Extract<Planned, { numbers: unknown }>;

/** What every store of rate limiters does, whatever it is kept in. `place` is where processes find it. */
function keepsRateLimits(place: () => string): void {
  const opened: LimiterStore[] = [];
  const store = (): LimiterStore => {
    const at = place();
    const made = at.startsWith('redis:')
      ? new RedisLimiters(at, 'test', systemClock, ['a'])
      : new LockedLimiters(limiterFiles(at), systemClock);
    opened.push(made);
    return made;
  };
  afterEach(() => opened.splice(0).forEach((each) => each.close()));

  test('so many at once, and one more when the first has left the window', async () => {
    const [one, other] = [store(), store()];
    const a = limiter('a', '2/s');
    const first = (await one.take([a])) as Slots;
    const second = (await other.take([a])) as Slots;
    expect([first.isFree, second.isFree]).toEqual([true, true]);
    const third = (await other.take([a])) as Slots;
    expect(third.isFree).toBe(false);
    // The first has not gone out yet: nobody knows when the window ends.
    expect(await other.hold([a], third)).toMatchObject({ why: 'rate-limit', detail: '2/s' });
    one.sent([a], first);
    other.sent([a], second);
    const sentAt = Date.now();
    for (;;) {
      const hold = await other.hold([a], third);
      if (hold === undefined) break;
      if (hold === 'lost') throw new Error('It is there');
      await new Promise((resolve) => setTimeout(resolve, Math.max(1, hold.until - Date.now())));
    }
    expect(Date.now() - sentAt).toBeGreaterThanOrEqual(1010);
  });

  test('a quota is spent, given back, and told with the time of its reset', async () => {
    const [one, other] = [store(), store()];
    const a = limiter('a', '2/day');
    const first = (await one.take([a])) as Slots;
    await other.take([a]);
    const midnight = new Date().setUTCHours(24, 0, 0, 0);
    const spent = (await one.take([a])) as Extract<Planned, { spent: string }>;
    expect(spent.spent).toBe('2/day');
    expect(Math.abs(spent.until - midnight)).toBeLessThan(2000);
    await one.giveBack([a], first);
    expect(await other.take([a])).toHaveProperty('numbers');
    const { head } = (await one.present()).get('a')!;
    expect(head.quotas.day!.used).toBe(2);
  });

  test('a quota that is spent inside another limiter takes nothing of that one', async () => {
    const one = store();
    const [outer, inner] = [limiter('a', '5/day'), limiter('a b', '1/day')];
    expect(await one.take([outer, inner])).toHaveProperty('numbers');
    expect(await one.take([outer, inner])).toMatchObject({ spent: '1/day' });
    expect((await one.present()).get('a')!.head.quotas.day!.used).toBe(1);
  });

  test('what a server says closes the limiter for all, until it is opened again', async () => {
    const [one, other] = [store(), store()];
    const a = limiter('a', '50/s');
    await one.take([a]);
    const heard = { left: [], maxWaitMs: 60_000, slot: 0, underWay: [], inUse: 1 };
    const closes = { ms: 30_000, status: 429, field: 'Retry-After: 30', run: 'x' };
    await one.hear(a, { ...heard, closes });
    const held = (await other.take([a])) as Slots;
    expect(held.isFree).toBe(false);
    const hold = await other.hold([a], held);
    expect(hold).toMatchObject({ why: 'server' });
    const { head } = (await other.present()).get('a')!;
    expect(Math.abs(head.closedUntil - Date.now() - 30_000)).toBeLessThan(2000);
    expect(head.closedBy).toMatchObject({ status: 429, field: 'Retry-After: 30' });
    await other.open('a');
    expect(await other.take([a])).toMatchObject({ isFree: true });
  });

  test('what a server has left is used up by all together, and no more', async () => {
    const [one, other] = [store(), store()];
    const a = limiter('a', '50/s');
    const { numbers } = (await one.take([a])) as Slots;
    const left = [{ name: 'default', remaining: 2, resetMs: 20_000 }];
    await one.hear(a, { closes: undefined, left, maxWaitMs: 60_000, slot: numbers[0], underWay: [], inUse: 1 });
    const taken = [await other.take([a]), await one.take([a]), await other.take([a])] as Slots[];
    expect(taken.map(({ isFree }) => isFree)).toEqual([true, true, false]);
    expect(await other.hold([a], taken[2]!)).toMatchObject({ why: 'server', detail: '2 left' });
  });

  test('four processes keep to a rate limit and a quota, whichever are killed, whatever one takes the time to be', async () => {
    const worker = path.join(folder, 'worker.cjs');
    const entry = path.join(__dirname, '../support/limiter-worker.ts');
    buildSync({
      entryPoints: [entry],
      bundle: true,
      platform: 'node',
      outfile: worker,
      external: ['luxon'],
    });
    const sent: number[] = [];
    const server = createServer((request, response) => {
      sent.push(Number(request.headers['x-sent']));
      response.end();
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    const at = place();
    const env = { ...process.env, NODE_PATH: path.join(__dirname, '../../node_modules') };
    const start = (ahead = 0) =>
      spawn(process.execPath, [worker, at, url, '40/s', '130/day'], {
        env: { ...env, CLOCK_AHEAD: at.startsWith('redis:') ? String(ahead) : '0' },
        stdio: 'inherit',
      });
    const processes = [start(), start(90_000), start(-90_000), start()];
    let kills = 0;
    for (let moment = 0; moment < 4; moment++) {
      await new Promise((resolve) => setTimeout(resolve, 300 + Math.random() * 300));
      processes[0]!.kill('SIGKILL');
      kills++;
      processes[0] = start();
    }
    await Promise.all(processes.map((each) => (each.exitCode === null ? once(each, 'exit') : undefined)));
    server.close();
    // A hundredth of the second is for the clocks of four processes.
    const inSecond = sent.map((from) => sent.filter((at) => at >= from && at < from + 990).length);
    expect(Math.max(...inSecond)).toBeLessThanOrEqual(40);
    expect(sent.length).toBeLessThanOrEqual(130);
    // Three requests at a time are all that a process may have had taken and not sent.
    expect(sent.length).toBeGreaterThanOrEqual(130 - 3 * kills);
  }, 60_000);
}

describe('in the files of a project', () => keepsRateLimits(() => path.join(folder, 'limiters')));

describeWith(['redis-server'], 'in Redis', () => {
  let redis: TestRedis;
  beforeAll(async () => void (redis = await startRedis()));
  beforeEach(async () => void (await redis.client().flushall()));
  afterAll(() => redis.close());
  keepsRateLimits(() => redis.url);

  test('no more are in flight than all together may have, and those of a process that is gone are free again', async () => {
    const [one, other] = [0, 1].map(() => new RedisLimiters(redis.url, 'test', systemClock, ['a']));
    const a = { ...limiter('a'), totalConcurrency: 2 };
    const first = (await one!.take([a])) as Slots;
    await other!.take([a]);
    expect(await other!.take([a])).toEqual({ full: 'total-concurrency 2' });
    const { inFlight } = (await one!.present()).get('a')!;
    expect([...inFlight.values()]).toEqual([1, 1]);
    one!.ended([a], first);
    expect(await other!.take([a])).toHaveProperty('numbers');
    expect(await one!.take([a])).toHaveProperty('full');
    other!.close();
    // It says so when it closes, and nobody waits for that.
    while ('full' in (await one!.take([a]))) await new Promise((resolve) => setTimeout(resolve, 10));
    one!.close();
  });

  test('a process that was taken for gone takes its slots anew', async () => {
    const one = new RedisLimiters(redis.url, 'test', systemClock);
    const a = limiter('a', '1/min');
    await one.take([a]);
    const waiting = (await one.take([a])) as Slots;
    const client = redis.client();
    await client.del(...(await client.keys('*process*')));
    expect(await one.hold([a], waiting)).toBe('lost');
    expect(((await one.take([a])) as Slots).owner).not.toBe(waiting.owner);
    one.close();
  });
});
