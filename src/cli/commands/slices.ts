import { Argument, type Command } from 'commander';
import path from 'node:path';
import { findChains } from '../../adapters/project-files.ts';
import { listRuns, readRun } from '../../adapters/journal-reader.ts';
import { recordedCalls } from '../../adapters/recorded-calls.ts';
import type { DivisionNow, RedisSlices, SliceNow } from '../../adapters/redis/redis-slices.ts';
import type { Slice } from '../../core/engine/settings.ts';
import { recordedSlice } from '../../core/engine/slices.ts';
import { isDone } from '../../core/journal/call-end.ts';
import { counted } from '../../core/value/show.ts';
import { CommandError } from '../../runner/command-error.ts';
import { projectSecrets } from '../../runner/project-secrets.ts';
import { askingSlices, openSlices } from '../../runner/slices.ts';
import { inProject, openProject, type Workspace } from '../../runner/workspace.ts';
import type { ExitStatus, Io } from '../io.ts';
import { timeText } from '../limits-now.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { examples, type CommandModule } from './definition.ts';
import { formOption, type Form } from './options.ts';

type Options = Readonly<{ as: Form; chain?: string }>;

/** `slices`: what became of the slices of divided runs; `slices release N` gives one up, `slices forget` begins anew. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .addArgument(new Argument('[action]', 'give a slice up, or forget all of them').choices(['release', 'forget']))
      .argument('[slice]', 'with release, the number of the slice')
      .option('--chain <chain>', 'chain file (default: the only chain that is divided)')
      .action((action: string | undefined, slice: string | undefined, options: Options) =>
        run((io) => withSlices(io, (opened) => act(action, slice, options, opened))),
      );
    examples(
      sub,
      'batharon slices',
      'batharon slices release 4',
      'batharon slices forget --chain chains/clearance.chain.yaml',
    );
  },
};

/** Slices that were asked for, and all that it takes to tell of them. */
type Opened = Readonly<{ slices: RedisSlices; workspace: Workspace; io: Io }>;
type Division = DivisionNow & Readonly<{ chain: string }>;

async function withSlices(io: Io, work: (opened: Opened) => Promise<ExitStatus>): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const slices = await openSlices(workspace, io, projectSecrets(workspace, io).find);
  try {
    return await askingSlices(() => work({ slices, workspace, io }));
  } finally {
    slices.close();
  }
}

async function act(
  action: string | undefined,
  slice: string | undefined,
  { as, chain }: Options,
  opened: Opened,
): Promise<ExitStatus> {
  const found = await divisionsIn(opened, chain);
  if (action === undefined) return list(found, as, opened);
  const division = onlyOne(found);
  return action === 'release' ? release(division, slice, opened) : forget(division, opened);
}

/** The divisions of the chains of the project, or of one, the newest of each. */
async function divisionsIn({ slices, workspace, io }: Opened, chain: string | undefined): Promise<readonly Division[]> {
  const files = chain === undefined ? findChains(workspace.folder) : [path.resolve(io.cwd, chain)];
  const found: Division[] = [];
  for (const file of files) {
    const name = inProject(workspace, path.relative(io.cwd, file));
    const [newest] = await slices.divisions(name);
    if (newest) found.push({ ...newest, chain: name });
  }
  return found;
}

function onlyOne(found: readonly Division[]): Division {
  const [division, other] = found;
  if (division && !other) return division;
  const chains = found.map(({ chain }) => chain).join(', ');
  throw division
    ? new CommandError('invalid-option', `Several chains are divided: ${chains}`, 'Say which: --chain FILE.')
    : new CommandError('file-not-found', 'No run is divided', 'To divide one: batharon run CHAIN --slices 4');
}

function list(found: readonly Division[], as: Form, { slices, workspace, io }: Opened): ExitStatus {
  const here = ownRuns(workspace);
  if (as === 'json') {
    const rows = found.map(({ id, chain, of, since, slices: all }) => ({
      chain,
      of,
      since,
      slices: all.map(({ part, state, at, machine }) => ({
        part,
        state,
        at,
        run: machine === slices.machine ? here.get(`${id} ${part}`) : undefined,
        isHere: machine === slices.machine,
      })),
    }));
    io.exit.out(`${JSON.stringify(rows, null, 2)}\n`);
  } else if (found.length === 0) io.exit.out('No run is divided. To divide one: batharon run CHAIN --slices 4\n');
  else io.exit.out(`${found.map((each) => shown(each, slices, workspace, paletteOf(io.colors))).join('\n\n')}\n`);
  return 0;
}

/** The runs of this project by the slices that they are. */
function ownRuns({ recordFolder }: Workspace): ReadonlyMap<string, string> {
  const found = new Map<string, string>();
  for (const run of listRuns(recordFolder)) {
    const slice = sliceOf(recordFolder, run);
    const key = `${slice?.division} ${slice?.part}`;
    if (slice?.division !== undefined && !found.has(key)) found.set(key, run);
  }
  return found;
}

function sliceOf(recordFolder: string, run: string): Slice | undefined {
  const [first] = readRun(recordFolder, run)?.journal ?? [];
  return first?.type === 'run' ? recordedSlice(first) : undefined;
}

const ORDER = ['done', 'failed', 'under way', 'free'] as const;

function shown(division: Division, { machine }: RedisSlices, workspace: Workspace, palette: Palette): string {
  const { chain, of, since, id } = division;
  const runs = ownRuns(workspace);
  const where = (slice: SliceNow): string => {
    const run = runs.get(`${id} ${slice.part}`);
    const at = slice.at === undefined ? '' : ` since ${timeText(slice.at)}`;
    if (slice.machine === machine) return `slice ${slice.part} here${run === undefined ? '' : `, run ${run}`}${at}`;
    return `slice ${slice.part} on machine ${(slice.machine ?? 0).toString(36).slice(-4)}${at}`;
  };
  const rows = ORDER.flatMap((state) => {
    const of = division.slices.filter((slice) => slice.state === state);
    if (of.length === 0) return [];
    const paint = state === 'failed' ? palette.bad : state === 'done' ? palette.good : (text: string) => text;
    const head = `  ${palette.quiet(state.padEnd(10))}${paint(String(of.length))}`;
    // Of those that are done or free the number says all.
    return [head, ...(state === 'failed' || state === 'under way' ? of.map((slice) => `    ${where(slice)}`) : [])];
  });
  return [`${palette.strong(chain)}   ${counted(of, 'slice')} since ${timeText(since)}`, ...rows].join('\n');
}

/** Gives a slice up that is here, and says what was done and sent in it: whoever takes it next knows nothing of that. */
async function release(
  division: Division,
  said: string | undefined,
  { slices, workspace, io }: Opened,
): Promise<ExitStatus> {
  const part = Number(said);
  const slice = division.slices[part - 1];
  if (said === undefined || !slice)
    throw new CommandError('invalid-option', `slices release needs a number from 1 to ${division.of}`);
  if (slice.state === 'free' || slice.state === 'done')
    throw new CommandError('invalid-option', `Slice ${part} is ${slice.state}: there is nothing to give up`);
  const run = ownRuns(workspace).get(`${division.id} ${part}`);
  if (slice.machine !== slices.machine)
    throw new CommandError(
      'run-under-way',
      `The record of slice ${part} is on another machine`,
      'Give it up there, or resume it there: only that record tells what was sent.',
    );
  await slices.release(division.id, part);
  io.exit.out(`Slice ${part} of ${division.of} is free.\n${run === undefined ? '' : leftBehind(workspace, run)}`);
  return 0;
}

function leftBehind({ recordFolder }: Workspace, run: string): string {
  const record = readRun(recordFolder, run);
  if (!record) return '';
  const records = recordedCalls(record);
  let done = 0;
  for (const { end } of records.all()) if (isDone(end) && end.isSent) done++;
  const doubts = records.inDoubt().map(({ step, request }) => `  ${step}   ${request.method} ${request.url}\n`);
  return [
    `Of it ${counted(done, 'call')} ${done === 1 ? 'was' : 'were'} done in run ${run}; whoever takes the slice does all of them again.\n`,
    ...(doubts.length > 0 ? [`Sent and never answered:\n`, ...doubts] : []),
  ].join('');
}

async function forget(division: Division, { slices, io }: Opened): Promise<ExitStatus> {
  const open = division.slices.filter(({ state }) => state === 'under way').map(({ part }) => part);
  if (open.length > 0)
    throw new CommandError(
      'run-under-way',
      `Slices are under way: ${open.join(', ')}`,
      'Wait until they end, or give them up where they are: batharon slices release N',
    );
  await slices.forget(division.id, division.chain);
  io.exit.out(
    `Forgot ${counted(division.of, 'slice')} of ${division.chain}: the next run --slices does all of them again.\n`,
  );
  return 0;
}
