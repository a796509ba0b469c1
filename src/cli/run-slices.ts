import { rmSync } from 'node:fs';
import { announceRun, runFolder, runsNeverBegun } from '../adapters/journal-files.ts';
import type { RedisSlices } from '../adapters/redis/redis-slices.ts';
import { moreSevereExit } from '../core/engine/exit.ts';
import { counted } from '../core/value/show.ts';
import { CommandError } from '../runner/command-error.ts';
import { projectSecrets } from '../runner/project-secrets.ts';
import { askingSlices, divisionId, openSlices, tellEnds } from '../runner/slices.ts';
import { openProject } from '../runner/workspace.ts';
import type { ExitStatus, Io } from './io.ts';
import { writeReports } from './reports.ts';
import { prepareAndRun, reportedOf, showLimits, type Ran, type RunOptions } from './show-run.ts';

/** Runs the next free slice of a chain until none is left; other machines do the same. Each slice is a run of its own. */
export async function runSlices(file: string, of: number, options: RunOptions, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const slices = await openSlices(workspace, io, projectSecrets(workspace, io).find);
  const ran: Ran[] = [];
  let isInterrupted = false;
  io.onInterrupt(() => (isInterrupted = true));
  try {
    // Whoever interrupts one wants no further one.
    while (!isInterrupted) {
      const settings = { ...options.settings, slice: { part: 1, of } };
      const one = await prepareAndRun(file, { ...options, settings, take: taking(slices, of) }, io);
      if (one.isLeft) break;
      ran.push(one);
      if (one.run === undefined || isOver(one.exit)) break;
    }
    return await end(ran, of, options, io);
  } finally {
    slices.close();
  }
}

/** Statuses behind which a further slice would end the same: what is wrong before anything is sent, a pause, an interruption. */
function isOver(exit: ExitStatus): boolean {
  return exit !== 0 && exit !== 1;
}

function taking(slices: RedisSlices, of: number): NonNullable<RunOptions['take']> {
  return async (plan) => {
    const { run, chain, host, workspace, settings, options } = plan;
    const division = divisionId(plan, of);
    const file = host.inProject(chain.file);
    announceRun(workspace.recordFolder, run);
    const part = await askingSlices(async () => {
      const taken = await slices.take(division, file, of, run);
      if (taken !== undefined) return taken;
      // What processes of this machine left behind that were killed is looked for when nothing else is left.
      await tellEnds(slices, workspace, division, file);
      return slices.takeOver(division, file, runsNeverBegun(workspace.recordFolder), run);
    });
    if (part === undefined) {
      rmSync(runFolder(workspace.recordFolder, run), { recursive: true, force: true });
      return undefined;
    }
    if (part === 'others')
      throw new CommandError('invalid-option', `This run is divided into another number than ${of}`);
    const slice = { part, of, division };
    return { ...plan, settings: { ...settings, slice }, options: { ...options, slice } };
  };
}

async function end(ran: readonly Ran[], of: number, options: RunOptions, io: Io): Promise<ExitStatus> {
  const [first] = ran;
  if (!first) {
    io.exit.out(`No slice of ${of} is left: each is done, or with another record. To see them: batharon slices\n`);
    return 0;
  }
  if (options.reports?.length) writeReports(first.workspace.recordFolder, ran.map(reportedOf), options.reports, io);
  if (!options.quiet) {
    io.exit.out(`${counted(ran.length, 'slice')} of ${of} ran here. To see all: batharon slices\n`);
    await showLimits(first.workspace, first.apis, options, io);
  }
  return ran.reduce<ExitStatus>((exit, each) => moreSevereExit(exit, each.exit), 0);
}
