import type { InputOptions } from './given-inputs.ts';
import { rmSync } from 'node:fs';
import { systemClock } from '../adapters/clock.ts';
import { LOCAL_FILE } from '../adapters/project-files.ts';
import { newRunId, runFolder } from '../adapters/journal-files.ts';
import type { RecordedRun } from '../adapters/journal-reader.ts';
import { linesFilesIn } from '../adapters/lines-files.ts';
import { signInHelp } from '../adapters/sign-in-help.ts';
import type { Given } from '../core/chain/inputs.ts';
import type { Chain } from '../core/chain/model.ts';
import { hasErrors, sorted, type Diagnostic } from '../core/diagnostics/source.ts';
import type { JournalEvent } from '../core/journal/events.ts';
import type { Recorded } from '../core/engine/recorded.ts';
import type { ResumePlanOptions } from '../core/engine/resume-plan.ts';
import type { Goal, RunSettings } from '../core/engine/settings.ts';
import { notDivisible } from '../core/chain/divisible.ts';
import { secretsInTexts } from '../core/chain/secrets-asked.ts';
import { textsOf } from '../core/template/template.ts';
import { present } from '../core/value/present.ts';
import type { Caller } from './caller.ts';
import { ChoicesOfChains } from './choices.ts';
import { readAt, type Where } from './deployments.ts';
import { checkToSend } from './check-to-send.ts';
import { endpointsFor, endpointsUsed } from './endpoints.ts';
import { reachableGoal } from './goal.ts';
import { commandInputs } from './inputs.ts';
import { projectSecrets } from './project-secrets.ts';
import type { HostOptions } from './run-host.ts';
import type { RunPlan } from './run-plan.ts';
import { namesFromCommands } from './secret-values.ts';
import { confirmTrust } from './trust.ts';
import { secretsWarnings } from './secrets-warnings.ts';
import type { UsedChains } from './used-chains.ts';
import { withoutRows } from './without-files.ts';
import { inProject, loadChain, openProject, type Workspace } from './workspace.ts';

/** What may be said of a run, whether it begins or goes on. */
export type PrepareOptions = InputOptions &
  HostOptions &
  Where &
  Readonly<{
    allowChanges: readonly string[];
    /** Whether files that a response does not equal may be written: then they may be missing. */
    accept?: boolean;
    settings?: RunSettings;
  }>;

/** What a run goes on from: its own journal, or that of another run. */
export type GoingOn = Readonly<{
  recorded: Recorded | undefined;
  /** The run whose journal is continued. */
  record: RecordedRun | undefined;
  /** Inputs as they were recorded; the command line goes before them. */
  inputs: ReadonlyMap<string, Given>;
  /** What is said before anything is sent; of a run that goes on, with what it will do. */
  heading:
    string | undefined | ((resumePlan: Pick<ResumePlanOptions, 'chain' | 'chainAt' | 'endpointOf' | 'host'>) => string);
}>;

const FROM_NOTHING: GoingOn = { recorded: undefined, record: undefined, inputs: new Map(), heading: undefined };

/** A chain that was read and checked for a run. */
export type PreparedRun = Readonly<{
  workspace: Workspace;
  name: string;
  /** The chain file, in the project. */
  file: string;
  /** What is wrong with the files, in order of place. */
  diagnostics: readonly Diagnostic[];
  /** The apis that it calls. */
  apis: ReadonlySet<string>;
  /** What starts it; nothing where something is wrong. */
  plan: ReadyPlan | undefined;
  /** Whether requests were sent already, for the choices of inputs. */
  hasSent: boolean;
  /** What is said of a run that goes on. */
  heading: string | undefined;
}>;

/** All that a run needs but who listens, and who is asked. */
type ReadyPlan = Omit<RunPlan, 'listeners' | 'accept' | 'ask'> & Readonly<{ run: string }>;

/** Reads and checks the files, and what was given for the inputs. Asks where something is missing and may be asked. */
export async function prepareRun(
  file: string,
  options: PrepareOptions,
  caller: Caller,
  from: GoingOn = FROM_NOTHING,
): Promise<PreparedRun> {
  const files = readFiles(file, options, caller);
  const { workspace, chain, used, at, secrets } = files;
  const checked = files.canBeAsked ? chain : undefined;
  const goal = checked && (await goalFor(checked, used, options, caller));
  const way = { workspace, used, help: signInHelp(caller.mayAsk, caller.exit), at, secrets };
  const run = runIdOf(workspace, from, options);
  const folder = runFolder(workspace.recordFolder, run);
  // What was given before, or is taken from a record, is not asked again.
  const choices = checked && from.inputs.size === 0 ? new ChoicesOfChains(way, caller) : undefined;
  const sources = { recorded: from.inputs, openLines: linesFilesIn(folder, caller.exit), choices };
  await confirmForDefaults(checked, files, caller);
  const given = await commandInputs(checked, file, secrets, options, workspace, caller, sources);
  const before = choices ? choices.events : [];
  const prepared = preparedOf(file, files, given.diagnostics, before);
  if (hasErrors(prepared.diagnostics) || !chain || !given.inputs) {
    if (!from.record) rmSync(folder, { recursive: true, force: true });
    return prepared;
  }
  const host = goal?.isAlone ? withoutRows(given.host) : given.host;
  const plan = { run, ...way, chain, before, inputs: given.inputs, host, ...recordOf(options, workspace, goal, from) };
  const apis = new Set(endpointsUsed(workspace, [chain, ...used.chains], at).map(({ api }) => api));
  return { ...prepared, apis, plan, heading: headingOf(from, plan) };
}

/** What the default of an input reads is read before the first request, where all else is asked about. */
async function confirmForDefaults(
  chain: Chain | undefined,
  { workspace, used, at, secrets }: ReadFiles,
  caller: Caller,
) {
  const fromCommands = namesFromCommands(secrets);
  const read = (chain?.inputs ?? []).flatMap((input) => (input.default ? secretsInTexts(textsOf(input.default)) : []));
  if (!chain || !read.some((name) => fromCommands.includes(name))) return;
  await confirmTrust(workspace, endpointsUsed(workspace, [chain, ...used.chains], at), secrets, caller);
}

/** Records of slices are brought together from many machines, and must not have one name by chance. */
const LETTERS_OF_SLICE = 8;

function runIdOf({ recordFolder }: Workspace, { record }: GoingOn, { settings }: PrepareOptions): string {
  const letters = settings?.slice ? LETTERS_OF_SLICE : undefined;
  return record?.id ?? newRunId(recordFolder, new Date(systemClock.nowMs()), Math.random, letters);
}

type ReadFiles = ReturnType<typeof readFiles>;

/** The files of a run, and what is wrong with sending it; what is missing is asked only where nothing is. */
function readFiles(file: string, options: PrepareOptions, caller: Caller) {
  const { accept, allowChanges, settings } = options;
  const workspace = openProject(caller.cwd);
  const at = readAt(options, caller.environment, workspace.project);
  const loaded = loadChain(workspace, file, at, accept);
  const { chain, used } = loaded;
  const store = projectSecrets(workspace, caller);
  const { secrets, diagnostics: found } = checkToSend(workspace, loaded, at, allowChanges, store);
  const diagnostics = [...found, ...(chain && settings?.slice ? notDivisible(chain, used.chainAt) : [])];
  const canBeAsked = secrets !== undefined && !hasErrors(diagnostics);
  return { workspace, at, chain, used, store, secrets: secrets ?? {}, diagnostics, canBeAsked };
}

/** A run that is not ready yet. */
function preparedOf(
  file: string,
  { workspace, chain, diagnostics, store }: ReadFiles,
  ofInputs: readonly Diagnostic[],
  before: readonly JournalEvent[],
): PreparedRun {
  return {
    workspace,
    name: chain?.name ?? file,
    file: inProject(workspace, file),
    diagnostics: sorted([...diagnostics, ...ofInputs, ...secretsWarnings(workspace, store)]),
    hasSent: before.length > 0,
    apis: new Set(),
    plan: undefined,
    heading: undefined,
  };
}

/** What is said of the run in its record, and what it goes on from. */
function recordOf(
  { at, setting = [], settings = {}, now }: PrepareOptions,
  workspace: Workspace,
  goal: Goal | undefined,
  from: GoingOn,
) {
  const local = workspace.project?.local && LOCAL_FILE;
  const own = { ...(setting.length > 0 ? { setting: [...setting] } : {}), ...present({ local }) };
  return {
    purpose: 'run' as const,
    options: { at: [...at], ...own, ...divisionOf(settings) },
    settings: { ...settings, goal },
    now: now ?? null,
    recorded: from.recorded,
    goesOn: from.record,
  };
}

/** Which of its items a run does, where that is not all of them. */
function divisionOf({ part, slice }: RunSettings) {
  return present({
    part: part && { ...part },
    slice: slice && present({ part: slice.part, of: slice.of, division: slice.division }),
  });
}

async function goalFor(chain: Chain, used: UsedChains, { settings }: PrepareOptions, caller: Caller) {
  return settings?.goal && reachableGoal(settings.goal, chain, used.chainAt, caller);
}

function headingOf({ heading }: GoingOn, { chain, workspace, at, used, host }: ReadyPlan): string | undefined {
  if (typeof heading !== 'function') return heading;
  return heading({ chain, chainAt: used.chainAt, endpointOf: endpointsFor(chain, workspace, at), host });
}
