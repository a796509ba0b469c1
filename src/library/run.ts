import { createMaskedOutput } from '../adapters/masked-output.ts';
import { prepareAndRun } from '../cli/prepared-run.ts';
import type { Io } from '../cli/io.ts';
import type { Value } from '../core/value/value.ts';
import { openJournal, type Journal } from './journal.ts';
import type { LoadedChainFile } from './load.ts';

/** What may be said of a run from Node. */
export type RunSettings = Readonly<{
  /** Inputs by name, as `--input` takes them. */
  inputs?: Readonly<Record<string, string | number | boolean>>;
  /** Deployments, as `--at` says them; those at which changes are allowed. */
  at?: readonly string[];
  allowChanges?: readonly string[];
  seed?: string;
  now?: string;
  /** Where secrets are looked up before `secrets.env`; nowhere unless said. */
  environment?: Readonly<Record<string, string>>;
  /** Gets what the command would show. */
  say?(text: string): void;
}>;

export type LibraryRun = Readonly<{
  /** As the command's: 0 all held, 1 something failed, 2 nothing was sent, 3 no usable response, 5 paused. */
  exit: number;
  outputs: Readonly<Record<string, Value>>;
  /** Its record; nothing when nothing was sent. */
  journal: Journal | undefined;
}>;

/** Runs a chain that was loaded. Resolves whatever happens to requests. */
export async function runLoaded({ file, project }: LoadedChainFile, settings: RunSettings = {}): Promise<LibraryRun> {
  const { inputs = {}, at = [], allowChanges = [], seed, now, environment = {}, say = () => {} } = settings;
  const io: Io = {
    exit: { ...createMaskedOutput(), out: say, err: say },
    cwd: project.folder,
    environment,
    inIsTerminal: false,
    outIsTerminal: false,
    errIsTerminal: false,
    mayAsk: false,
    trustedOnly: false,
    columns: 100,
    columnsNow: () => 100,
    colors: false,
    readInput: async () => '',
    inputChunks: async function* () {},
    onInterrupt: () => {},
  };
  const options = {
    input: Object.entries(inputs).map(([name, value]) => `${name}=${value}`),
    at,
    allowChanges,
    ...(seed === undefined ? {} : { seed }),
    ...(now === undefined ? {} : { now }),
  };
  const { exit, outputs, run } = await prepareAndRun(file, options, io);
  const journal = run === undefined ? undefined : openJournal(project.folder, run);
  return { exit, outputs: Object.fromEntries(outputs), journal };
}
