// Limits over a Redis, against a question that it answers at once; a divided run, against the same by one machine.
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { Redis } from 'ioredis';
import { loadCore } from './core.mjs';
import { median, ms, note } from './measure.mjs';
import { program } from './project.mjs';
import { measureSharedLimit } from './shared-limit.mjs';

const here = path.dirname(fileURLToPath(import.meta.url));
const SLOTS = 3000;
const ROUNDS = 5;

async function freePort() {
  const server = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const { port } = server.address();
  await new Promise((resolve) => server.close(resolve));
  return port;
}

export async function measureFleet() {
  if (spawnSync('redis-server', ['--version']).status !== 0) {
    console.log('skipped: limits over a Redis (redis-server is missing)');
    return;
  }
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const port = await freePort();
  const server = spawn(
    'redis-server',
    ['--port', String(port), '--protected-mode', 'no', '--save', '', '--appendonly', 'yes', '--dir', folder],
    {
      stdio: 'ignore',
    },
  );
  const client = new Redis(port, '127.0.0.1');
  client.on('error', () => {});
  while ((await client.ping().catch(() => '')) !== 'PONG') await new Promise((resolve) => setTimeout(resolve, 20));
  await measureSlots(client, `redis://127.0.0.1:${port}`);
  await client.flushall();
  await measureSharedLimit(folder, port);
  client.disconnect();
  server.kill('SIGKILL');
  if (!process.env.LIMIT_ONLY) await measureDivision(folder);
  rmSync(folder, { recursive: true, force: true });
}

/** A slot with nothing to wait for: one round trip on the path, and what it takes beyond. */
async function measureSlots(client, url) {
  const { takeSlots, RateLimiter, rateLimitOf, readRateLimit, MIDNIGHT_UTC, RedisLimiters, systemClock } =
    await loadCore();
  const store = new RedisLimiters(url, 'bench', systemClock);
  const rateLimit = rateLimitOf(['900000/s', '90000000/day'].map(readRateLimit));
  const options = { name: 'a', rateLimit, resets: MIDNIGHT_UTC, concurrency: 8, maxWaitMs: 60_000 };
  const limiter = new RateLimiter(options, store, systemClock);
  const signal = new AbortController().signal;
  const entrance = { store, clock: systemClock, signal, longestMs: 60_000, told: () => {} };
  const timed = async (work) => {
    const started = performance.now();
    for (let i = 0; i < SLOTS; i++) await work();
    return ((performance.now() - started) / SLOTS) * 1000;
  };
  const slot = async () => {
    const { slots } = await takeSlots([limiter], entrance);
    slots.sent();
    slots.ended();
  };
  const times = { slot: [], ping: [] };
  for (let i = 0; i < ROUNDS; i++) {
    times.ping.push(await timed(() => client.ping()));
    times.slot.push(await timed(slot));
  }
  store.close();
  const [taken, trip] = [median(times.slot), median(times.ping)];
  const beyond = taken - trip;
  note(
    'a shared slot beyond one round trip, of 300 µs',
    beyond / 300,
    1,
    `${taken.toFixed(0)} µs and ${trip.toFixed(0)} µs`,
  );
}

const ROWS = 4000;

/** Four slices at once against one run, with a server that answers in 20 ms: how much more is done in a second. */
async function measureDivision(folder) {
  const server = spawn(process.execPath, [path.join(here, 'slow-server.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const port = await new Promise((resolve) => server.stdout.once('data', (data) => resolve(String(data).trim())));
  const url = `http://127.0.0.1:${port}`;
  writeFileSync(path.join(folder, 'batharon.yaml'), `apis:\n  harbour: { url: "${url}", concurrency: 8 }\n`);
  writeFileSync(
    path.join(folder, 'rows.chain.yaml'),
    `name: rows\napi: harbour\nsteps:\n  - each: n in range(${ROWS})\n    concurrency: 8\n    steps:\n      - call: level\n        request: GET /vessels/{n}\n`,
  );
  const slices = [1, 2, 3, 4].map((part) => [program, 'run', 'rows.chain.yaml', '--quiet', '--slice', `${part}/4`]);
  const bare = (count) => [path.join(here, 'bare-slow.mjs'), url, String(count), '8'];
  const one = await timeOfAll([[program, 'run', 'rows.chain.yaml', '--quiet']], folder);
  const four = await timeOfAll(slices, folder);
  const alone = await timeOfAll([bare(ROWS)], folder);
  const together = await timeOfAll(
    [1, 2, 3, 4].map(() => bare(ROWS / 4)),
    folder,
  );
  server.kill();
  note(
    'four slices: 3.5 times the calls of one',
    3.5 / (one / four),
    1,
    `${ms(one)} and ${ms(four)}: ${(one / four).toFixed(2)} times`,
  );
  note(
    '   as far as the processors allow: bare undici',
    alone / together / (one / four),
    1.1,
    `${ms(alone)} and ${ms(together)}: ${(alone / together).toFixed(2)} times`,
  );
}

async function timeOfAll(commands, cwd) {
  const started = performance.now();
  const ends = commands.map(
    (args) =>
      new Promise((resolve, reject) => {
        const child = spawn(process.execPath, args, { cwd, stdio: 'ignore' });
        child.once('exit', (status) =>
          status === 0 ? resolve() : reject(new Error(`${args.join(' ')} ended with ${status}`)),
        );
      }),
  );
  await Promise.all(ends);
  return performance.now() - started;
}
