import { createMaskedOutput } from '../adapters/masked-output.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import type { JournalEvent } from '../core/journal/events.ts';
import { isFact } from '../core/journal/recorder.ts';
import { present } from '../core/value/present.ts';
import type { Value } from '../core/value/value.ts';
import type { Caller } from '../runner/caller.ts';
import { prepareRun } from '../runner/prepare-run.ts';
import { startRun } from '../runner/start-run.ts';
import { openJournal, type Journal } from './journal.ts';
import type { LoadedChainFile } from './load.ts';

/** What may be said of a run from Node. */
export type RunSettings = Readonly<{
  /** Inputs by name, as JSON values. */
  inputs?: Readonly<Record<string, Value>>;
  /** Deployments, as `--at` says them; those at which changes are allowed. */
  at?: readonly string[];
  allowChanges?: readonly string[];
  seed?: string;
  now?: string;
  /** Where secrets are looked up before `secrets.env`; nowhere unless said. */
  environment?: Readonly<Record<string, string>>;
  /** Gets each event as it is recorded, secrets masked. */
  onEvent?(event: JournalEvent): void;
  /** Gets notes, such as that secrets go to a new place. */
  note?(text: string): void;
  /** Pauses the run when it is aborted; it can be resumed. */
  signal?: AbortSignal;
}>;

export type LibraryRun = Readonly<{
  /** As the command's: 0 all held, 1 something failed, 2 nothing was sent, 3 no usable response, 5 paused. */
  exit: number;
  outputs: Readonly<Record<string, Value>>;
  /** What is wrong with the files or the inputs; with an error among them nothing was sent. */
  diagnostics: readonly Diagnostic[];
  /** Its record; nothing when nothing was sent. */
  journal: Journal | undefined;
}>;

/** Runs a chain that was loaded. Resolves whatever happens to requests; rejects when the project cannot be read. */
export async function runLoaded({ file, folder }: LoadedChainFile, settings: RunSettings = {}): Promise<LibraryRun> {
  const { inputs, at = [], allowChanges = [], seed, now, onEvent } = settings;
  const caller = callerOf(folder, settings);
  const options = { input: [], at, allowChanges, ...present({ values: inputs, seed, now }) };
  const { plan, diagnostics } = await prepareRun(file, options, caller);
  if (!plan) return { exit: 2, outputs: {}, diagnostics, journal: undefined };
  const listeners = onEvent ? [(event: Parameters<typeof isFact>[0]) => void (isFact(event) && onEvent(event))] : [];
  const { exit, outputs } = await startRun({ ...plan, listeners }, caller);
  return { exit, outputs: Object.fromEntries(outputs), diagnostics, journal: openJournal(folder, plan.run) };
}

/** A program as the one who starts a run: nobody is asked, and nothing is read from standard input. */
function callerOf(cwd: string, { environment = {}, note = () => {}, signal }: RunSettings): Caller {
  return {
    exit: { ...createMaskedOutput(), out: note, err: note },
    cwd,
    environment,
    mayAsk: false,
    trustedOnly: false,
    progress: () => {},
    readInput: async () => '',
    inputChunks: async function* () {},
    onInterrupt: (listener) => signal?.addEventListener('abort', listener),
  };
}
