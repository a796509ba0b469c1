// One rate limit of four processes in two network namespaces, one killed at random moments, one with a clock that is 90 seconds
// ahead: what the server counts in any second, and how much of what is allowed is used. It needs root, and iproute2.
import { build } from 'esbuild';
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createServer } from 'node:http';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { note } from './measure.mjs';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const [RATE, COUNT] = [40, 1600];
/** A window as limiters keep it, in milliseconds. */
const STRETCHED_MS = 1020;

const ip = (...args) => execFileSync('ip', args);

/** A namespace with a way to this one; gives the addresses on both sides. */
function namespace(number) {
  const [name, here, there] = [`bench-${number}`, `10.77.${number}.1`, `10.77.${number}.2`];
  spawnSync('ip', ['netns', 'del', name]);
  ip('netns', 'add', name);
  ip('link', 'add', `bench${number}a`, 'type', 'veth', 'peer', 'name', `bench${number}b`, 'netns', name);
  ip('addr', 'add', `${here}/24`, 'dev', `bench${number}a`);
  ip('link', 'set', `bench${number}a`, 'up');
  ip('-n', name, 'addr', 'add', `${there}/24`, 'dev', `bench${number}b`);
  ip('-n', name, 'link', 'set', `bench${number}b`, 'up');
  return { name, here };
}

export async function measureSharedLimit(folder, redisPort) {
  if (process.getuid?.() !== 0 || spawnSync('ip', ['netns']).status !== 0) {
    console.log('skipped: a limit across network namespaces (it needs root and iproute2)');
    return;
  }
  const worker = path.join(folder, 'worker.cjs');
  const entryPoints = [path.join(root, 'test/support/limiter-worker.ts')];
  await build({ entryPoints, outfile: worker, bundle: true, platform: 'node', logLevel: 'error', external: ['luxon'] });
  const arrivals = [];
  const server = createServer((_request, response) => {
    arrivals.push(performance.now());
    response.end();
  }).listen(0, '0.0.0.0');
  await new Promise((resolve) => server.once('listening', resolve));
  const spaces = [namespace(1), namespace(2)];
  const start = (space, ahead = 0) =>
    spawn(
      'ip',
      [
        ...['netns', 'exec', space.name, process.execPath, worker, `redis://${space.here}:${redisPort}`],
        ...[`http://${space.here}:${server.address().port}/`, `${RATE}/s`, `${COUNT}/day`],
      ],
      {
        stdio: 'inherit',
        env: { ...process.env, NODE_PATH: path.join(root, 'node_modules'), CLOCK_AHEAD: String(ahead) },
      },
    );
  const processes = [start(spaces[0]), start(spaces[1], 90_000), start(spaces[0]), start(spaces[1])];
  let kills = 0;
  while (arrivals.length < COUNT * 0.8) {
    await new Promise((resolve) => setTimeout(resolve, 3000 + Math.random() * 9000));
    processes[0].kill('SIGKILL');
    kills++;
    processes[0] = start(spaces[kills % 2]);
  }
  await Promise.all(processes.map((each) => each.exitCode ?? new Promise((resolve) => each.once('exit', resolve))));
  server.close();
  for (const { name } of spaces) ip('netns', 'del', name);
  const most = Math.max(...arrivals.map((from) => arrivals.filter((at) => at >= from && at < from + 1000).length));
  const allowed = ((arrivals.at(-1) - arrivals[0]) / STRETCHED_MS) * RATE + RATE;
  // Three requests at a time are all that a process can have had taken when it is killed.
  const used = (arrivals.length + 3 * kills) / allowed;
  note(`${RATE}/s of four processes, ${kills} killed: most in a second`, most / RATE, 1, `${most}`);
  note('   what is allowed, of what is used', 0.98 / used, 1, `${(used * 100).toFixed(1)} %, ${arrivals.length} sent`);
}
