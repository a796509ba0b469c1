import { sourceOf, sourcesBy } from '../core/report/run-summary.ts';
import { rmSync } from 'node:fs';
import { systemClock } from '../adapters/clock.ts';
import { newRunId, runFolder } from '../adapters/journal-files.ts';
import { linesFilesIn } from '../adapters/lines-files.ts';
import { listRuns, readRun, type RecordedRun } from '../adapters/journal-reader.ts';
import { limitLines } from './limits-now.ts';
import { projectSecrets } from './project-secrets.ts';
import { signInHelp } from '../adapters/sign-in-help.ts';
import { changesNotAllowed } from '../core/chain/changes.ts';
import { endpointsOf } from '../core/chain/endpoints.ts';
import type { Given } from '../core/chain/inputs.ts';
import { hasErrors, sorted, type Diagnostic } from '../core/diagnostics/source.ts';
import type { Recorded } from '../core/engine/recorded.ts';
import type { RunSettings } from '../core/engine/settings.ts';
import type { ResumePlanOptions } from '../core/engine/resume-plan.ts';
import { visibleJson } from '../core/value/visible.ts';
import { isFact, type Listener } from '../core/journal/recorder.ts';
import { writeJson } from '../core/value/json-write.ts';
import type { ObjectValue, Value } from '../core/value/value.ts';
import { acceptIn } from './accept.ts';
import { askChange } from './ask-change.ts';
import { ChoicesOfChains } from './choices.ts';
import { endpointsUsed, refuseUnchosen, secretsFor } from './endpoints.ts';
import { commandInputs, type InputOptions } from './inputs.ts';
import { reachableGoal } from './goal.ts';
import type { ExitStatus, Io } from './io.ts';
import { writeResult } from './results.ts';
import type { HostOptions } from './run-host.ts';
import { writeReports, type Reported, type WantedReport } from './reports.ts';
import { secretsWarnings } from './secrets-warnings.ts';
import { endpointsFor, startRun } from './start-run.ts';
import { CommandError } from './command-error.ts';
import { showDiagnostics, tally } from './view/diagnostics.ts';
import { paletteOf } from './view/palette.ts';
import { RunView, type Outcome } from './view/run-view.ts';
import { widthsOf } from './view/widths.ts';
import { withoutRows } from './without-files.ts';
import { inProject, loadChain, openProject, readAt, type Workspace } from './workspace.ts';

/** What may be said of a run, whether it begins or goes on. */
export type RunOptions = InputOptions &
  HostOptions &
  Readonly<{
    at: readonly string[];
    allowChanges: readonly string[];
    out?: string;
    quiet?: boolean;
    verbose?: boolean;
    events?: boolean;
    accept?: boolean;
    ask?: boolean;
    settings?: RunSettings;
    reports?: readonly WantedReport[];
  }>;

/** What a run goes on from: its own journal, or that of another run. */
export type GoingOn = Readonly<{
  recorded: Recorded;
  /** The run whose journal is continued. */
  record: RecordedRun | undefined;
  /** Inputs as they were recorded; the command line goes before them. */
  inputs: ReadonlyMap<string, Given>;
  /** What is said before anything is sent; of a run that goes on, with what it will do. */
  heading: string | ((resumePlan: Pick<ResumePlanOptions, 'chain' | 'chainAt' | 'endpointOf' | 'host'>) => string);
}>;

/** How a command's run ended; without one when the files did not allow it. */
export type Ran = Readonly<{
  exit: ExitStatus;
  name: string;
  /** The chain file, in the project. */
  file: string;
  run?: string;
  outputs: ReadonlyMap<string, Value>;
  workspace: Workspace;
  /** The apis that it calls. */
  apis: ReadonlySet<string>;
  /** How it ended in words. */
  outcome?: Outcome;
  /** What is wrong with the files. */
  diagnostics: readonly Diagnostic[];
}>;

/** One of several chains that run together: what is shown of it is collected, and its record names the others. */
type Together = Readonly<{ batch: string; write(text: string): void }>;

/** The same, and what it gives into the file that was said, and the reports. */
export async function runAndWrite(file: string, options: RunOptions, io: Io, from?: GoingOn): Promise<ExitStatus> {
  const ran = await prepareAndRun(file, options, io, from);
  if (options.reports?.length) writeReports(ran.workspace.recordFolder, [reportedOf(ran)], options.reports, io);
  if (ran.run === undefined) return ran.exit;
  if (!options.quiet) showLimits(ran.workspace, ran.apis, options, io);
  if (options.out !== undefined) writeOutputs(options.out, Object.fromEntries(ran.outputs), io);
  return ran.exit;
}

/** How reports tell of what ran, or could not. */
export function reportedOf({ run, name, file, diagnostics }: Ran): Reported {
  return run ?? { name, file, atMs: systemClock.nowMs(), diagnostics };
}

/** What is left of the quotas of apis, below the last line of a run. */
export function showLimits(
  workspace: Workspace,
  apis: ReadonlySet<string>,
  { out, events }: Pick<RunOptions, 'out' | 'events'>,
  io: Io,
): void {
  const write = out === '-' || events ? io.exit.err : io.exit.out;
  for (const line of limitLines(workspace, paletteOf(io.colors), apis)) write(`${line}\n`);
}

/** Checks the files, and runs the chain when nothing is wrong with them. */
export async function prepareAndRun(
  file: string,
  options: RunOptions,
  io: Io,
  from?: GoingOn,
  together?: Together,
): Promise<Ran> {
  const workspace = openProject(io.cwd);
  const path = inProject(workspace, file);
  const at = readAt(options.at, io.environment, workspace.project);
  const { chain, diagnostics, used } = loadChain(workspace, file, at, options.accept);
  if (chain) refuseUnchosen(workspace, [chain, ...used.chains], at);
  const store = projectSecrets(workspace, io);
  const found: Diagnostic[] = [...workspace.diagnostics, ...diagnostics];
  const secrets = chain && secretsFor(workspace, [chain, ...used.chains], at, store);
  found.push(...(secrets?.diagnostics ?? []));
  for (const each of chain ? [chain, ...used.steps] : [])
    found.push(...changesNotAllowed(each, endpointsOf(workspace.project, at), options.allowChanges));
  const canRun = chain && secrets && !hasErrors(found);
  const canAsk = io.mayAsk;
  if (options.accept && !canAsk)
    throw new CommandError(
      'needs-terminal',
      '--accept asks before it writes a file, and there is no terminal to ask on',
    );
  if (options.ask && !canAsk)
    throw new CommandError('needs-terminal', '--ask asks before each change, and there is no terminal to ask on');
  const checked = canRun ? chain : undefined;
  const { settings = {} } = options;
  const goal =
    settings.goal && checked ? await reachableGoal(settings.goal, checked, used.chainAt, canAsk, io) : undefined;
  const help = signInHelp(canAsk, io.exit);
  // What was given before, or is taken from a record, is not asked again.
  const choices =
    checked && secrets && !from?.inputs.size
      ? new ChoicesOfChains({ workspace, used, help, at, secrets: secrets.values }, io)
      : undefined;
  const run = from?.record?.id ?? newRunId(workspace.recordFolder, new Date(systemClock.nowMs()), Math.random);
  const folder = runFolder(workspace.recordFolder, run);
  const {
    inputs,
    host,
    diagnostics: ofInputs,
  } = await commandInputs(checked, file, secrets?.values ?? {}, options, workspace, io, {
    recorded: from?.inputs,
    openLines: linesFilesIn(folder, io.exit),
    choices,
  });
  found.push(...ofInputs, ...secretsWarnings(workspace, store));

  // What goes wrong is told beside the data when standard output is the data.
  const isData = options.out === '-' || options.events === true;
  const write = together?.write ?? (isData ? io.exit.err : io.exit.out);
  const palette = paletteOf(io.colors && (isData ? io.errIsTerminal : true));
  const shown = sorted(found);
  if (found.length > 0 && !together) io.exit.err(`${showDiagnostics(shown, palette, io.columns)}\n`);
  if (hasErrors(found) || !chain || !secrets || !inputs) {
    if (!together)
      io.exit.err(`${tally(found)}; ${choices?.events.length ? 'the run was not started' : 'nothing was sent'}\n`);
    if (!from?.record) rmSync(folder, { recursive: true, force: true });
    const name = chain?.name ?? file;
    return { exit: 2, workspace, name, file: path, outputs: new Map(), apis: new Set(), diagnostics: shown };
  }
  const view = new RunView({
    write,
    palette,
    widths: widthsOf(chain),
    namedRun: together || (from?.record && listRuns(workspace.recordFolder)[0] !== run) ? run : undefined,
    recorded: sourcesBy((id) => readRun(workspace.recordFolder, id)),
    quiet: together ? !options.verbose : (options.quiet ?? false),
    verbose: options.verbose ?? false,
    columns: io.columnsNow,
    beforeWriting: io.exit.beforeWriting,
    nowMs: systemClock.nowMs,
    moves: !together && (isData ? io.errIsTerminal : io.outIsTerminal),
  });
  if (from) {
    const endpointOf = endpointsFor(chain, workspace, at);
    const { heading } = from;
    const resumePlan = { chain, chainAt: used.chainAt, endpointOf, host };
    view.goOn(from.record && sourceOf(from.record), typeof heading === 'string' ? heading : heading(resumePlan));
  }
  const plan = {
    run,
    before: choices?.events ?? [],
    workspace,
    chain,
    used,
    help,
    inputs,
    at,
    secrets: secrets.values,
    options: {
      at: [...options.at],
      ...(settings.part ? { part: { ...settings.part } } : {}),
      ...(together ? { batch: together.batch } : {}),
    },
    purpose: 'run' as const,
    listeners: [view.listen, ...(options.events ? [eventLines(io)] : [])],
    host: goal?.isAlone ? withoutRows(host) : host,
    now: options.now ?? null,
    accept: options.accept ? acceptIn(workspace, file, palette, io) : undefined,
    settings: { ...settings, goal },
    ask: options.ask ? askChange(palette, io) : undefined,
    recorded: from?.recorded,
    goesOn: from?.record,
  };
  const { exit, outputs } = await startRun(plan, io);
  const apis = new Set(endpointsUsed(workspace, [chain, ...used.chains], at).map(({ api }) => api));
  const { name } = chain;
  return { exit, workspace, outputs, apis, run, name, file: path, outcome: view.outcome(), diagnostics: shown };
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
