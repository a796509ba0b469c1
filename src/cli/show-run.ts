import { sourceOf, sourcesBy } from '../core/report/run-source.ts';
import { systemClock } from '../adapters/clock.ts';
import { listRuns, readRun } from '../adapters/journal-reader.ts';
import { hasErrors } from '../core/diagnostics/source.ts';
import { isFact, type Listener } from '../core/journal/recorder.ts';
import { writeJson } from '../core/value/json-write.ts';
import type { ObjectValue, Value } from '../core/value/value.ts';
import { present } from '../core/value/present.ts';
import { visibleJson } from '../core/value/visible.ts';
import { CommandError } from '../runner/command-error.ts';
import { prepareRun, type GoingOn, type PreparedRun, type PrepareOptions } from '../runner/prepare-run.ts';
import { startSlice } from '../runner/slices.ts';
import type { Workspace } from '../runner/workspace.ts';
import { acceptIn } from './accept.ts';
import { askChange } from './ask-change.ts';
import type { ExitStatus, Io } from './io.ts';
import { limitLines } from './limits-now.ts';
import { writeReports, type Reported, type WantedReport } from './reports.ts';
import { writeResult } from './results.ts';
import { showDiagnostics, tally } from './view/diagnostics.ts';
import { paletteOf, type Palette } from './view/palette.ts';
import type { KnownRun } from './view/known-run.ts';
import type { RunViewOptions } from './view/run-view-options.ts';
import { RunView, type Outcome } from './view/run-view.ts';
import { widthsOf } from './view/widths.ts';

/** What may be said of a run on the command line. */
export type RunOptions = PrepareOptions &
  Readonly<{
    out?: string;
    quiet?: boolean;
    verbose?: boolean;
    events?: boolean;
    ask?: boolean;
    reports?: readonly WantedReport[];
    /** Takes what is to run of a plan; nothing where there is nothing left. */
    take?: (plan: ReadyPlan) => Promise<ReadyPlan | undefined>;
  }>;

/** How a command's run ended; without one when the files did not allow it. */
export type Ran = Pick<PreparedRun, 'name' | 'file' | 'workspace' | 'apis' | 'diagnostics'> &
  Readonly<{
    exit: ExitStatus;
    run?: string;
    outputs: ReadonlyMap<string, Value>;
    /** How it ended in words. */
    outcome?: Outcome;
    /** Whether nothing was left to run. */
    isLeft?: true;
  }>;

type ReadyPlan = NonNullable<PreparedRun['plan']>;

/** One of several chains that run together: what is shown of it is collected, and its record names the others. */
type Together = Readonly<{ batch: string; name?: string | undefined; write(text: string): void }>;

/** Runs a chain, and writes what it gives into the file that was said, and the reports. */
export async function runAndWrite(file: string, options: RunOptions, io: Io, from?: Resuming): Promise<ExitStatus> {
  const ran = await prepareAndRun(file, options, io, from);
  if (options.reports?.length) writeReports(ran.workspace.recordFolder, [reportedOf(ran)], options.reports, io);
  if (ran.run === undefined) return ran.exit;
  if (!options.quiet) await showLimits(ran.workspace, ran.apis, options, io);
  if (options.out !== undefined) writeOutputs(options.out, Object.fromEntries(ran.outputs), io);
  return ran.exit;
}

/** How reports tell of what ran, or could not. */
export function reportedOf({ run, name, file, diagnostics }: Ran): Reported {
  return run ?? { name, file, atMs: systemClock.nowMs(), diagnostics };
}

/** What is left of the quotas of apis, below the last line of a run. */
export async function showLimits(
  workspace: Workspace,
  apis: ReadonlySet<string>,
  options: Pick<RunOptions, 'out' | 'events'>,
  io: Io,
): Promise<void> {
  const write = isData(options) ? io.exit.err : io.exit.out;
  for (const line of await limitLines(workspace, io, paletteOf(io.colors), apis)) write(`${line}\n`);
}

/** Whether standard output is data: what goes wrong is told beside it then. */
function isData({ out, events }: Pick<RunOptions, 'out' | 'events'>): boolean {
  return out === '-' || events === true;
}

/** What a run goes on from, and what its view knows of it then. */
export type Resuming = GoingOn & Readonly<{ known?: KnownRun }>;

/** Checks the files, and runs the chain when nothing is wrong with them. */
export async function prepareAndRun(
  file: string,
  options: RunOptions,
  io: Io,
  from?: Resuming,
  together?: Together,
): Promise<Ran> {
  refuseUnasked(options, io);
  const prepared = named(await prepareRun(file, options, io, from), together?.name);
  const palette = paletteOf(io.colors && (isData(options) ? io.errIsTerminal : true));
  const { workspace, name, apis, diagnostics } = prepared;
  if (!together) showFound(prepared, palette, io);
  const shared = { workspace, name, apis, diagnostics, file: prepared.file };
  if (!prepared.plan) return { ...shared, exit: 2, outputs: new Map() };
  const { take = all } = options;
  const plan = await take(prepared.plan);
  if (!plan) return { ...shared, exit: 0, outputs: new Map(), isLeft: true };
  const view = viewOf({ ...prepared, plan }, options, palette, io, together, beforeOf(from));
  if (prepared.heading !== undefined) view.goOn(prepared.heading);
  const { exit, outputs } = await startSlice(
    {
      ...plan,
      options: { ...plan.options, ...present({ batch: together?.batch }) },
      listeners: [view.listen, ...(options.events ? [eventLines(io)] : [])],
      accept: options.accept ? acceptIn(workspace, file, palette, io) : undefined,
      ask: options.ask ? askChange(palette, io) : undefined,
    },
    io,
  );
  return { ...shared, exit, outputs, run: plan.run, outcome: view.outcome() };
}

const all = (plan: ReadyPlan) => Promise.resolve(plan);

/** The same under another name, which sets it apart from other runs of the same chain. */
function named(prepared: PreparedRun, name: string | undefined): PreparedRun {
  if (name === undefined) return prepared;
  const { plan } = prepared;
  return { ...prepared, name, plan: plan && { ...plan, chain: { ...plan.chain, name } } };
}

/** What asks needs somebody to ask. Throws `CommandError`. */
function refuseUnasked({ accept, ask }: RunOptions, { mayAsk }: Io): void {
  if (mayAsk) return;
  const refuse = (what: string) => {
    throw new CommandError('needs-terminal', `${what}, and there is no terminal to ask on`);
  };
  if (accept) refuse('--accept asks before it writes a file');
  if (ask) refuse('--ask asks before each change');
}

function showFound({ diagnostics, plan, hasSent }: PreparedRun, palette: Palette, io: Io): void {
  if (diagnostics.length > 0) io.exit.err(`${showDiagnostics(diagnostics, palette, io.columns)}\n`);
  if (plan && !hasErrors(diagnostics)) return;
  io.exit.err(`${tally(diagnostics)}; ${hasSent ? 'the run was not started' : 'nothing was sent'}\n`);
}

function beforeOf(from: Resuming | undefined): RunViewOptions['before'] {
  return from?.record && from.known && { known: from.known, source: sourceOf(from.record) };
}

function viewOf(
  { plan, workspace: { recordFolder } }: PreparedRun,
  options: RunOptions,
  palette: Palette,
  io: Io,
  together: Together | undefined,
  before: RunViewOptions['before'],
): RunView {
  const { run, chain, goesOn } = plan!;
  return new RunView({
    write: together?.write ?? (isData(options) ? io.exit.err : io.exit.out),
    palette,
    widths: widthsOf(chain),
    namedRun: together || (goesOn && listRuns(recordFolder)[0] !== run) ? run : undefined,
    before,
    recorded: sourcesBy((id) => readRun(recordFolder, id)),
    quiet: together ? !options.verbose : (options.quiet ?? false),
    verbose: options.verbose ?? false,
    columns: io.columnsNow,
    beforeWriting: io.exit.beforeWriting,
    nowMs: systemClock.nowMs,
    moves: !together && (isData(options) ? io.errIsTerminal : io.outIsTerminal),
  });
}

/** Each event as a line of JSON, as the journal has it. */
function eventLines(io: Io): Listener {
  return (event) => {
    if (isFact(event)) io.exit.out(`${visibleJson(JSON.stringify(event))}\n`);
  };
}

/** As JSON: into a file, or to standard output for `-`. */
export function writeOutputs(out: string, outputs: ObjectValue, io: Io): void {
  const text = `${visibleJson(writeJson(outputs, 2))}\n`;
  if (out === '-') {
    io.exit.out(text);
    return;
  }
  writeResult(out, [text], io);
  io.exit.out(`wrote   ${out}\n`);
}
