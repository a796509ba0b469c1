import { prepareAndRun, type RunOptions } from './show-run.ts';
import type { ExitStatus, Io } from './io.ts';
import { openRecord } from '../runner/record.ts';
import { moreSevereExit } from '../core/engine/exit.ts';
import { keepingRun, keptOf, recordedInputs, CLEANING_UP } from '../runner/recorded-run.ts';
import { CommandError } from '../runner/command-error.ts';
import { present } from '../core/value/present.ts';
import { watchFolders } from './watched-folders.ts';
import { openProject } from '../runner/workspace.ts';

/** Saves that follow each other so closely are one. */
const SETTLE_MS = 150;

/**
 * Runs a chain, and again whenever a file of the project is saved: what has not changed is not sent again. Undos and
 * cleanup wait until watching ends, at an interruption; its status is that of the last run.
 */
export async function watchAndRun(file: string, options: RunOptions, io: Io): Promise<ExitStatus> {
  const { folder } = openProject(io.cwd);
  let isOver = false;
  let wake = () => {};
  io.onInterrupt(() => {
    isOver = true;
    wake();
  });
  let timer: NodeJS.Timeout | undefined;
  const unwatch = watchFolders(folder, () => {
    clearTimeout(timer);
    timer = setTimeout(() => wake(), SETTLE_MS);
  });
  let exit: ExitStatus = 0;
  let before: string | undefined;
  try {
    while (!isOver) {
      const saved = new Promise<void>((resolve) => (wake = resolve));
      const kept = before === undefined ? undefined : keepingRun(openRecord(openProject(io.cwd), before), 'go-on');
      try {
        const seed = kept?.seed ?? options.seed;
        const ran = await prepareAndRun(
          file,
          { ...options, settings: { ...options.settings, watched: true }, ...present({ seed }) },
          io,
          kept?.goingOn,
        );
        exit = ran.exit;
        before = ran.run ?? before;
      } catch (error) {
        // A file that is half written is told, and waited for.
        if (!(error instanceof CommandError)) throw error;
        io.exit.err(`error ${error.code}: ${error.message}\n`);
        exit = 2;
      }
      if (isOver) break;
      io.exit.err('\nWatching: save a file to run again, press Ctrl-C to end.\n\n');
      await saved;
    }
  } finally {
    clearTimeout(timer);
    unwatch();
  }
  return before === undefined ? exit : moreSevereExit(exit, await cleanedUp(file, before, options, io));
}

/** Undoes and cleans up what the last run left, for all runs before it. */
async function cleanedUp(file: string, run: string, options: RunOptions, io: Io): Promise<ExitStatus> {
  const record = openRecord(openProject(io.cwd), run);
  const [first] = record.journal;
  const end = record.journal.last();
  if (first?.type !== 'run' || end?.type !== 'paused' || end.why !== 'watch') return 0;
  const recorded = { ...keptOf(record, 'go-on'), isSameRun: true };
  const from = { recorded, record, inputs: recordedInputs(first, record, true), heading: CLEANING_UP };
  const clock = { seed: first.seed, ...present({ now: first.now ?? undefined }) };
  return (
    await prepareAndRun(file, { ...options, ...clock, settings: { ...options.settings, cleanupOnly: true } }, io, from)
  ).exit;
}
