import { spawn } from 'node:child_process';
import type { Command } from 'commander';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Harbour, HarbourOptions } from '../../harbour/server.ts';
import type { ExitStatus, Io } from '../io.ts';
import { CommandError } from '../../runner/command-error.ts';
import { paletteOf } from '../view/palette.ts';
import { wrapped } from '../view/text.ts';
import { copyDemo, demoChains, DEMO_PORT, DEMO_SECRETS, projectIn, tour } from '../demo-project.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ serve?: boolean; list?: boolean; fleet?: boolean; port?: string; dir: string }>;

/** `demo`: the simulated harbour, and a tour of what there is to do with it. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .option('--serve', 'keep the harbour running, with its project in a folder to try things in')
      .option('--list', 'list the chains of the demo')
      .option('--fleet', 'show three machines that share a limit and divide a loop (needs redis-server)')
      .option('--port <number>', `port for --serve (default: ${DEMO_PORT}, or a free one)`)
      .option('--dir <folder>', 'folder for the project of --serve', 'harbour')
      .action((options: Options) => run((io) => execute(options, io)));
    examples(sub, 'batharon demo', 'batharon demo --serve', 'batharon demo --list');
  },
};

async function execute(options: Options, io: Io): Promise<ExitStatus> {
  if (options.list) return list(io);
  if (options.fleet) return takeFleet(io);
  return options.serve ? serve(options, io) : takeTour(io);
}

function list(io: Io): ExitStatus {
  const { name } = paletteOf(io.colors);
  for (const chain of demoChains()) io.exit.out(`${name(chain.file)}\n    ${chain.about}\n`);
  return 0;
}

async function takeFleet(io: Io): Promise<ExitStatus> {
  const harbour = await openHarbour({ ...DEMO_SECRETS, port: 0 });
  try {
    return await (await import('../fleet-demo.ts')).showFleet(harbour, io);
  } finally {
    await harbour.close();
  }
}

/** Every stop of the tour is a command that anybody could type, run as a program of its own in a fresh project. */
async function takeTour(io: Io): Promise<ExitStatus> {
  const { strong, quiet, good } = paletteOf(io.colors);
  const harbour = await openHarbour({ ...DEMO_SECRETS, port: 0 });
  const parent = mkdtempSync(path.join(tmpdir(), 'batharon-demo-'));
  const folder = path.join(parent, 'harbour');
  try {
    copyDemo(folder, harbour.port, io.exit);
    io.exit.out(`${strong('A tour of the simulated harbour')}, running at ${harbour.url} for the time of the tour\n`);
    for (const stop of tour) {
      io.exit.out(
        `\n${wrapped(stop.about, Math.min(io.columns, 100)).join('\n')}\n\n${good('$')} ${strong(stop.shown)}\n`,
      );
      const status = await runSelf(stop.args, folder, io);
      if (status !== stop.exit) {
        io.exit.err(
          `\nThis ended with status ${status} where the tour expects ${stop.exit}: this installation is broken.\n`,
        );
        return 1;
      }
      if (status !== 0) io.exit.out(quiet(`exit status ${status}\n`));
    }
    const width = Math.max(...NEXT.map(([text]) => text.length));
    io.exit.out(
      `\n${strong('What to try next')}\n${NEXT.map(([text, what]) => `  ${text.padEnd(width)}  ${quiet(what)}`).join('\n')}\n`,
    );
    return 0;
  } finally {
    await harbour.close();
    rmSync(parent, { recursive: true, force: true });
  }
}

const NEXT = [
  ['batharon demo --serve', 'keep the harbour running, with its project in ./harbour'],
  ['cd harbour', 'in a second terminal'],
  ['batharon run chains/berth.chain.yaml', 'the chain of the tour, for you to change'],
  ['batharon send GET /vessels --api harbour', 'a request of your own'],
  ['batharon value \'$.vessels[?@.flag == "NO"].name\'', 'a value of its response'],
] as const;

function runSelf(args: readonly string[], cwd: string, io: Io): Promise<number> {
  const program = path.join(__dirname, 'batharon.cjs');
  const environment = { ...io.environment, COLUMNS: String(io.columns), FORCE_COLOR: io.colors ? '1' : '0' };
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [program, ...args], { cwd, env: environment, stdio: 'inherit' });
    child.on('error', reject);
    child.on('exit', (code) => resolve(code ?? 1));
  });
}

async function serve(options: Options, io: Io): Promise<ExitStatus> {
  const folder = path.resolve(io.cwd, options.dir);
  const wanted = options.port === undefined ? (portOf(folder) ?? DEMO_PORT) : Number(options.port);
  if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65_535)
    throw new CommandError('invalid-option', `"${options.port}" is not a port`);
  const harbour = await openOrElse(wanted, options.port === undefined && portOf(folder) === undefined);
  if (!existsSync(path.join(folder, 'batharon.yaml'))) copyDemo(folder, harbour.port, io.exit);
  else if (portOf(folder) !== harbour.port) {
    io.exit.err(`The project in ${options.dir} uses another port; change its url to ${harbour.url}/v1\n`);
  }
  const { strong, quiet } = paletteOf(io.colors);
  const shown = path.relative(io.cwd, folder) || '.';
  io.exit.out(`The harbour is running at ${strong(harbour.url)}, its project is in ${strong(shown)}\n`);
  io.exit.out(
    `In a second terminal:\n  cd ${shown}\n  batharon run chains/berth.chain.yaml\n${quiet('Ctrl-C stops the harbour.')}\n`,
  );
  return new Promise((resolve) => {
    io.onInterrupt(() => {
      void harbour.close().then(() => resolve(0));
    });
  });
}

/** The port in the project's own file, so that serving again finds the project as it was left. */
function portOf(folder: string): number | undefined {
  try {
    const port = /127\.0\.0\.1:(\d+)/.exec(readFileSync(projectIn(folder), 'utf8'))?.[1];
    return port === undefined ? undefined : Number(port);
  } catch {
    return undefined;
  }
}

/** The harbour is a piece of its own, which only this command loads. */
async function openHarbour(options: HarbourOptions): Promise<Harbour> {
  const server = await import('../../harbour/server.ts');
  return server.openHarbour(options);
}

async function openOrElse(port: number, mayChoose: boolean): Promise<Harbour> {
  try {
    return await openHarbour({ ...DEMO_SECRETS, port });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EADDRINUSE') throw error;
    if (mayChoose) return openHarbour({ ...DEMO_SECRETS, port: 0 });
    throw new CommandError(
      'invalid-option',
      `Port ${port} is taken`,
      'The harbour may be running already. Otherwise pass another port: --port 0 takes a free one.',
    );
  }
}
