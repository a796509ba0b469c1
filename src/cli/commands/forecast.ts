import type { InputOptions } from '../../runner/given-inputs.ts';
import type { Command } from 'commander';
import { freshRecords } from '../../adapters/fresh-records.ts';
import { forecastChain, type Forecast } from '../../core/engine/forecast.ts';
import { RunProfile } from '../../core/journal/profile.ts';
import { MemoryLimiters } from '../../core/pacing/limiter-state.ts';
import { LockedLimiters, PLANNED_AHEAD } from '../../core/pacing/locked-limiters.ts';
import { RateLimiters } from '../../core/pacing/rate-limiters.ts';
import { VirtualClock } from '../../core/pacing/virtual-clock.ts';
import { counted, grouped, spent } from '../../core/value/show.ts';
import type { ExitStatus, Io } from '../io.ts';
import { newestRunOf, openRecord } from '../../runner/record.ts';
import type { HostOptions } from '../../runner/run-host.ts';
import { partOf, shareOf } from '../run-parts.ts';
import { CommandError } from '../../runner/command-error.ts';
import { limitersNow } from '../limits-now.ts';
import type { Workspace } from '../../runner/workspace.ts';
import { unsentChain } from '../unsent-chain.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { padded, paddedLeft } from '../view/text.ts';
import { examples, several, type CommandModule } from './definition.ts';
import { chainOptions, formOption } from './options.ts';

type Options = InputOptions &
  HostOptions &
  Readonly<{
    at: readonly string[];
    setting: readonly string[];
    assume: readonly string[];
    run?: string;
    first?: string;
    sample?: string;
    limitShare?: string;
    as: 'text' | 'json';
  }>;

/** `forecast CHAIN`: requests, duration and quota of a run before anything is sent. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(chainOptions(sub.argument('<chain>', 'chain file')))
      .option('--assume <name=size>', 'size of an array that is not known yet (repeatable)', several, [])
      .option('--run <run>', 'run to take sizes and durations from (default: the newest of the chain)')
      .option('--first <n>', 'only the first N items of each outermost loop')
      .option('--sample <n>', 'only N items of each outermost loop, evenly spread')
      .option('--limit-share <part>', 'use only a part of every rate limit and quota, such as 1/3')
      .action((chain: string, options: Options) => run((io) => execute(chain, options, io)));
    examples(
      sub,
      'batharon forecast chains/clearance.chain.yaml',
      'batharon forecast chains/clearance.chain.yaml --assume due=200',
    );
  },
};

async function execute(file: string, options: Options, io: Io): Promise<ExitStatus> {
  const unsent = await unsentChain(file, options, 'nothing to forecast', io);
  if (!unsent) return 2;
  const { workspace, chain, context } = unsent;
  const record =
    options.run === undefined ? newestRunOf(workspace, chain.file.path) : openRecord(workspace, options.run);
  const clock = new VirtualClock(Date.now(), () => new Promise((resolve) => setImmediate(resolve)));
  const store = new LockedLimiters(await presentLimiters(workspace, io), clock);
  const limiters = new RateLimiters(store, clock, shareOf(options.limitShare));
  const forecast = await forecastChain({
    context: {
      ...context,
      run: {
        ...context.run,
        clock,
        limiters,
        settings: { part: partOf(options) },
        fresh: freshRecords(workspace.recordFolder, ''),
      },
    },
    clock,
    profile: record && new RunProfile(record.events),
    assumed: new Map(options.assume.map(sizeSaid)),
  });
  io.exit.out(
    options.as === 'json'
      ? `${JSON.stringify(forecast, null, 2)}\n`
      : shown(forecast, record?.id, paletteOf(io.colors)),
  );
  return 0;
}

function sizeSaid(text: string): [string, number] {
  const [, name = '', size = ''] = /^([^=]+)=(\d+)$/.exec(text) ?? [];
  if (name !== '') return [name, Number(size)];
  throw new CommandError('invalid-option', `--assume needs NAME=SIZE, not "${text}"`, 'Example: --assume due=200.');
}

/** The rate limiters as they are now, in memory: what is simulated takes nothing of them. */
async function presentLimiters(workspace: Workspace, io: Io): Promise<MemoryLimiters> {
  const memory = new MemoryLimiters();
  for (const [name, { head }] of await limitersNow(workspace, io))
    Object.assign(memory.open(name, PLANNED_AHEAD).look().head, head, { taken: 0 });
  return memory;
}

function shown({ calls, requests, ms, quotas, guesses }: Forecast, run: string | undefined, palette: Palette): string {
  const width = Math.max(12, ...calls.map(({ name }) => name.length));
  const lines = calls.map(
    ({ name, times, requests: own }) =>
      `  ${padded(name, width)}  ${paddedLeft(grouped(own), 9)} ${own === 1 ? 'request' : 'requests'}${own === times ? '' : palette.quiet(`   ${counted(times, 'time')}`)}`,
  );
  const from = run === undefined ? 'this chain has no recorded run yet' : `sizes and durations as in run ${run}`;
  return [
    ...lines,
    '',
    `${palette.strong(counted(requests, 'request'))}, about ${palette.strong(spent(ms))}   ${palette.quiet(from)}`,
    ...quotas.map(({ limiter, text, count, used, spentAfter }) => {
      if (spentAfter === undefined)
        return `quota ${text} of ${limiter}: ${grouped(count - used)} of ${grouped(count)} left afterwards`;
      return palette.warning(
        `quota ${text} of ${limiter}: spent after ${counted(spentAfter, 'request')}; the run would pause there (or wait, with --wait-for-quota)`,
      );
    }),
    ...guesses.map((each) => palette.warning(`assumed   ${each}`)),
    '',
  ].join('\n');
}
