import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { connect, createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Harbour } from '../harbour/server.ts';
import { CommandError } from '../runner/command-error.ts';
import { copyDemo } from './demo-project.ts';
import type { ExitStatus, Io } from './io.ts';
import { paletteOf } from './view/palette.ts';
import { wrapped } from './view/text.ts';

const MACHINES = 3;
const CHAIN = ['run', 'chains/pilots.chain.yaml', '--input', 'count=60', '--slices', '6'];

/**
 * Three machines on one: processes in folders of their own that know nothing of each other but a Redis. They take slices of one
 * loop, and keep to the limit of the harbour together.
 */
export async function showFleet(harbour: Harbour, io: Io): Promise<ExitStatus> {
  const parent = mkdtempSync(path.join(tmpdir(), 'batharon-fleet-'));
  const folders = Array.from({ length: MACHINES }, (_, i) => path.join(parent, `machine-${i + 1}`));
  const redis = await startRedis(parent);
  const stage = new Stage(io, `redis://127.0.0.1:${redis.port}`);
  try {
    for (const folder of folders) copyDemo(folder, harbour.port, io.exit);
    stage.say(
      `${MACHINES} machines, one Redis, and the register of pilots, which answers 10 requests in 2 seconds. Each machine takes the next ` +
        'free slice of 60 pilots, runs it, and takes the next. What the register says of its limit holds for all of them.',
    );
    const ends = folders.map((folder, i) => stage.together(`machine ${i + 1}`, CHAIN, folder));
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    stage.say('Meanwhile: the limit as all machines share it.');
    await stage.alone(['limits'], folders[0]!);
    const statuses = await Promise.all(ends);
    stage.say('Each slice was taken once. Its record is on the machine that took it.');
    await stage.alone(['slices'], folders[0]!);
    for (const folder of folders.slice(1))
      cpSync(path.join(folder, '.batharon/runs'), path.join(folders[0]!, '.batharon/runs'), { recursive: true });
    stage.say('The records of all machines brought together in one folder are reported as one run.');
    await stage.alone(['report', 'markdown=-'], folders[0]!);
    return statuses.every((status) => status === 0) ? 0 : 1;
  } finally {
    redis.server.kill();
    rmSync(parent, { recursive: true, force: true });
  }
}

/** When the limits are looked at. */
const LOOK_MS = 2500;

/** Of what machines say at the same time: which slice begins, how it ended, how many there were. */
const TOLD = /slice \d|slices? of \d|(passed|failed|paused) {3}/;

/** So wide that no line is broken behind the name of its machine. */
const WIDE = 120;

/** Where programs run, and what they say is shown. */
class Stage {
  private readonly palette;

  constructor(
    private readonly io: Io,
    private readonly redis: string,
  ) {
    this.palette = paletteOf(io.colors);
  }

  say(text: string): void {
    this.io.exit.out(`\n${wrapped(text, Math.min(this.io.columns, 100)).join('\n')}\n\n`);
  }

  /** A command whose lines are told apart from those of others by a name. */
  together(name: string, args: readonly string[], cwd: string): Promise<number> {
    this.io.exit.out(`${this.palette.quiet(`${name} |`)} $ batharon ${args.join(' ')}\n`);
    return this.run(args, cwd, (line) => {
      if (TOLD.test(line)) this.io.exit.out(`${this.palette.quiet(`${name} |`)} ${line}\n`);
    });
  }

  alone(args: readonly string[], cwd: string): Promise<number> {
    this.io.exit.out(`${this.palette.good('$')} ${this.palette.strong(`batharon ${args.join(' ')}`)}\n`);
    return this.run(args, cwd, (line) => this.io.exit.out(`${line}\n`));
  }

  private run(args: readonly string[], cwd: string, show: (line: string) => void): Promise<number> {
    const { environment, columns, colors } = this.io;
    const env = {
      ...environment,
      BATHARON_REDIS: this.redis,
      COLUMNS: String(Math.max(columns, WIDE)),
      FORCE_COLOR: colors ? '1' : '0',
    };
    const child = spawn(process.execPath, [path.join(__dirname, 'batharon.cjs'), ...args], { cwd, env });
    let rest = '';
    const add = (data: Buffer) => {
      const lines = (rest + data.toString()).split('\n');
      rest = lines.pop()!;
      lines.forEach(show);
    };
    child.stdout.on('data', add);
    child.stderr.on('data', add);
    return new Promise((resolve, reject) => {
      child.once('error', reject);
      child.once('close', (status) => resolve(status ?? 1));
    });
  }
}

/** A Redis of this machine on a free port, which keeps what it is told in a folder. */
async function startRedis(folder: string): Promise<Readonly<{ port: number; server: ChildProcess }>> {
  const port = await freePort();
  const args = ['--port', String(port), '--bind', '127.0.0.1', '--save', '', '--appendonly', 'yes', '--dir', folder];
  const server = spawn('redis-server', args, { stdio: 'ignore' });
  const failed = new Promise<never>((_, reject) => {
    server.once('error', () => {
      const advice = 'On Debian: apt-get install redis-server.';
      reject(new CommandError('redis-not-usable', 'redis-server is not installed on this machine', advice));
    });
  });
  const opened = async () => {
    while (!(await isOpen(port))) await new Promise((resolve) => setTimeout(resolve, 20));
  };
  await Promise.race([opened(), failed]);
  return { port, server };
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}

function isOpen(port: number): Promise<boolean> {
  const socket = connect(port, '127.0.0.1');
  return new Promise((resolve) => {
    socket.once('connect', () => (socket.destroy(), resolve(true))).once('error', () => resolve(false));
  });
}
