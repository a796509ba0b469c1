import { runAndWrite, type RunOptions } from '../show-run.ts';
import type { GoingOn } from '../../runner/prepare-run.ts';
import { readAt, type Where } from '../../runner/deployments.ts';
import type { Command } from 'commander';
import path from 'node:path';
import { runOwner } from '../../adapters/journal-files.ts';
import { listRuns, readRun } from '../../adapters/journal-reader.ts';
import { endpointNamed } from '../../core/chain/endpoints.ts';
import type { Goal, RunSettings, Slice } from '../../core/engine/settings.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { present } from '../../core/value/present.ts';
import { grouped } from '../../core/value/show.ts';
import { parseDuration } from '../../core/value/times.ts';
import type { ExitStatus, Io } from '../io.ts';
import { itemNumbers } from '../../runner/goal.ts';
import { rowJobs } from '../rows.ts';
import { chosenChains, partOfChains, runMany } from '../many-chains.ts';
import { newestRunOf, openRecord } from '../../runner/record.ts';
import { keepingRun } from '../../runner/recorded-run.ts';
import { wantedReport } from '../reports.ts';
import { fractionOf, partOf, shareOf } from '../run-parts.ts';
import { runSlices } from '../run-slices.ts';
import { watchAndRun } from '../watch.ts';
import { CommandError } from '../../runner/command-error.ts';
import { inProject, openProject } from '../../runner/workspace.ts';
import { examples, several, type CommandModule } from './definition.ts';
import { chainOptions } from './options.ts';

type Options = Omit<RunOptions, 'settings' | 'reports'> &
  Readonly<{
    waitForQuota?: boolean;
    strict?: boolean;
    first?: string;
    sample?: string;
    limitShare?: string;
    slice?: string;
    last?: boolean;
    slices?: string;
    forEach?: string;
    fromRow?: string;
    tag: readonly string[];
    parallelChains: string;
    to?: string;
    only?: string;
    item?: string;
    reuse?: string;
    within?: string;
    exclusive?: boolean;
    watch?: boolean;
    report: readonly string[];
  }>;

/** Slices that a run is divided into at most. */
const MAX_SLICES = 10_000;

/** `run CHAIN`: checks the files, sends what the chain says, judges, and records all of it. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    chainOptions(sub.argument('<chains...>', 'chain files, or folders of them'))
      .optionsGroup('Which chains and steps')
      .option('--tag <tag>', 'only chains with this tag (repeatable)', several, [])
      .option(
        '--slice <part>',
        'run a part, such as 2/5: of several chains, or of the items of one; rate limits are divided too',
      )
      .option('--slices <n>', 'with Redis: take the next free one of N slices of the items, run it, and so on')
      .option('--last', 'with --slice of one chain: this slice is the last to end, and runs what is once: last-slice')
      .option('--for-each <file>', 'run the chain once for each row of a table; columns are its inputs')
      .option('--from-row <n>', 'with --for-each, begin with this row')
      .option('--parallel-chains <n>', 'number of chains that run at the same time', '1')
      .option('--first <n>', 'only the first N items of each outermost loop')
      .option('--sample <n>', 'only N items of each outermost loop, evenly spread')
      .option('--to <call>', 'run up to this call; the run can then be resumed')
      .option('--only <call>', 'run only this call, with earlier values from a recorded run')
      .option('--item <n>', 'with --only: item of its loop, 5, or 5.2 in nested loops')
      .option('--reuse <run>', 'do not send again what that run sent and has not changed')
      .option('--watch', 'run again whenever a file is saved; unchanged requests are not sent again')
      .optionsGroup('Limits and safety')
      .option(
        '--allow-changes <deployment>',
        'allow changes at a guarded deployment, by name (repeatable)',
        several,
        [],
      )
      .option('--ask', 'show every request that changes something and ask before sending it')
      .option('--accept', 'ask whether to write files that a response does not equal')
      .option('--strict', 'count a call that needed several attempts, and notes, as failed')
      .option('--within <duration>', 'pause after this time; no further request starts then')
      .option('--wait-for-quota', 'wait for a spent quota instead of pausing the run')
      .option('--limit-share <part>', 'use only a part of every rate limit and quota, such as 1/3')
      .option('--exclusive', 'refuse to start while another run of this chain is under way')
      .option('--now <time>', 'fixed time for now() and today()')
      .option('--seed <text>', 'seed for uuid() and random values')
      .optionsGroup('Output')
      .option('--out <file>', "write the chain's outputs as JSON; - for standard output")
      .option('--report <format=file>', 'write a report of the run (repeatable)', several, [])
      .option('--events', 'print every event as a line of JSON on standard output')
      .option('--quiet', 'show failures only')
      .option('--verbose', 'show every request, and every step inside loops')
      .action((chains: readonly string[], options: Options) => run((io) => execute(chains, options, io)));
    examples(
      sub,
      'batharon run chains/berth.chain.yaml',
      'batharon run chains/berth.chain.yaml --input day=2026-05-23 --at live',
      'batharon run chains/visit.chain.yaml --for-each visits.csv --parallel-chains 4',
      "batharon run chains/berth.chain.yaml --out - | batharon value '$.berth' -",
    );
  },
};

async function execute(said: readonly string[], options: Options, io: Io): Promise<ExitStatus> {
  const { forEach } = options;
  const chosen = chosenChains(said, options.tag, io);
  const isWhole = chosen.length === 1 || forEach !== undefined;
  const files = isWhole ? chosen : partOfChains(chosen, options.slice);
  const settings = { ...settingsOf(options), slice: forEach === undefined ? sliceOf(chosen, options) : undefined };
  const shared: RunOptions = { ...options, settings, reports: options.report.map(wantedReport) };
  const [only] = files;
  if (options.slices !== undefined) return runSlicesOf(files, options, shared, io);
  if (options.fromRow !== undefined && forEach === undefined)
    throw new CommandError('invalid-option', '--from-row requires --for-each');
  if (only !== undefined && forEach !== undefined) return runRows(files, forEach, options, shared, io);
  if (only !== undefined && files.length === 1 && said.length === 1) return runOne(only, options, shared, io);
  const exclusive = ['to', 'only', 'item', 'reuse'] as const;
  const wrong = exclusive.find((name) => options[name] !== undefined);
  if (wrong) throw new CommandError('invalid-option', `--${wrong} is for one chain, and here are ${files.length}`);
  return runMany(
    files.map((file) => ({ file })),
    shared,
    Number(options.parallelChains),
    io,
  );
}

/** Slices of one chain, as many as are free. */
function runSlicesOf(files: readonly string[], options: Options, shared: RunOptions, io: Io): Promise<ExitStatus> {
  const of = Number(options.slices);
  const [file = '', ...others] = files;
  if (!Number.isInteger(of) || of < 1 || of > MAX_SLICES)
    throw new CommandError(
      'invalid-option',
      `--slices needs a number from 1 to ${grouped(MAX_SLICES)}, not "${options.slices}"`,
    );
  if (others.length > 0) throw new CommandError('invalid-option', '--slices divides the items of one chain');
  const beside = ['slice', 'forEach', 'first', 'sample', 'to', 'only', 'watch', 'reuse', 'out'] as const;
  const wrong = beside.find((name) => options[name] !== undefined);
  if (wrong)
    throw new CommandError(
      'invalid-option',
      `--slices takes parts of one run, and --${wrong.replace('forEach', 'for-each')} is for another`,
    );
  return runSlices(file, of, shared, io);
}

/** The part of the items of one chain that a run does. */
function sliceOf({ length }: readonly string[], { slice, last: isLast, first, sample }: Options): Slice | undefined {
  if (slice === undefined || length > 1) {
    if (isLast) throw new CommandError('invalid-option', '--last requires --slice');
    return undefined;
  }
  if (first ?? sample)
    throw new CommandError(
      'invalid-option',
      '--slice divides the items, and --first and --sample choose some: one is enough',
    );
  return { ...fractionOf('--slice', '2/5', slice), isLast };
}

/** One chain, once for each row of a table. */
async function runRows(
  [file = '', ...others]: readonly string[],
  rows: string,
  options: Options,
  shared: RunOptions,
  io: Io,
): Promise<ExitStatus> {
  if (others.length > 0) throw new CommandError('invalid-option', '--for-each is for one chain');
  const wrong = (['to', 'only', 'item', 'reuse', 'watch'] as const).find((name) => options[name] !== undefined);
  if (wrong) throw new CommandError('invalid-option', `--${wrong} is for one run, and --for-each makes several`);
  return runMany(await rowJobs(file, rows, options, io), shared, Number(options.parallelChains), io);
}

function settingsOf(options: Options): RunSettings {
  const { slice, limitShare, within, waitForQuota, strict } = options;
  const ofSlice = slice === undefined ? undefined : { part: 1, of: fractionOf('--slice', '2/5', slice).of };
  return {
    part: partOf(options),
    share: shareOf(limitShare) ?? ofSlice,
    withinMs: durationOf(within),
    waitForQuota,
    strict,
  };
}

async function runOne(file: string, options: Options, shared: RunOptions, io: Io): Promise<ExitStatus> {
  if (options.parallelChains !== '1') io.exit.err('note: --parallel-chains has no effect on a single chain\n');
  if (options.exclusive) refuseBeside(file, options, io);
  const goal = goalOf(options);
  const wanted = { ...shared, settings: { ...shared.settings, goal } };
  if (options.watch) return watchAndRun(file, wanted, io);
  const from = keptFrom(file, options, goal, io);
  const seed = options.seed ?? from?.seed;
  return runAndWrite(file, { ...wanted, ...present({ seed }) }, io, from?.goingOn);
}

function durationOf(said: string | undefined): number | undefined {
  if (said === undefined) return undefined;
  const duration = parseDuration(said);
  if (duration) return duration.milliseconds;
  throw new CommandError('invalid-option', `--within needs a duration, not "${said}"`, 'Example: --within 20m.');
}

function goalOf({ to, only, item }: Options): Goal | undefined {
  if (to !== undefined && only !== undefined)
    throw new CommandError('invalid-option', '--to and --only are two ways to stop');
  if (item !== undefined && only === undefined) throw new CommandError('invalid-option', '--item goes with --only');
  const items = item === undefined ? [] : itemNumbers(item);
  if (!items) throw new CommandError('invalid-option', `--item needs a number such as 5, or 5.2, not "${item}"`);
  const call = to ?? only;
  return call === undefined ? undefined : { call, items, isAlone: only !== undefined };
}

/** The run whose responses stand for sending: the one that is said, with `--only` the newest of the chain. */
function keptFrom(
  file: string,
  { reuse }: Options,
  goal: Goal | undefined,
  io: Io,
): Readonly<{ goingOn: GoingOn; seed: string }> | undefined {
  if (reuse === undefined && !goal?.isAlone) return undefined;
  const workspace = openProject(io.cwd);
  const record = reuse === undefined ? newestRunOf(workspace, file) : openRecord(workspace, reuse);
  if (!record)
    throw new CommandError('run-not-found', 'This chain has no recorded run', 'Run the chain once without --only.');
  return goal?.isAlone ? keepingRun(record, 'only', goal.call) : keepingRun(record, 'go-on');
}

/** Refuses to run beside another run of the same chain at the same deployment of an api; a chain without any is one at all of them. */
function refuseBeside(file: string, where: Where, { cwd, environment }: Io): void {
  const workspace = openProject(cwd);
  const { recordFolder, project } = workspace;
  const chain = inProject(workspace, file);
  const at = readAt(where, environment, project);
  const isHere = ({ apis }: EventOf<'run'>): boolean =>
    apis.length === 0 ||
    apis.some(({ name, deployment }) => {
      const endpoint = endpointNamed(project, name, at);
      return endpoint?.deployment === (deployment ?? undefined);
    });
  for (const id of listRuns(recordFolder)) {
    const owner = runOwner(path.join(recordFolder, 'runs', id));
    if (owner === undefined) continue;
    const [first] = readRun(recordFolder, id)?.journal ?? [];
    if (first?.type === 'run' && first.chain === chain && isHere(first))
      throw new CommandError(
        'run-under-way',
        `Process ${owner} is running this chain in the run ${id}`,
        'Wait until it ends, or leave out --exclusive.',
      );
  }
}
