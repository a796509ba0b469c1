import type { At } from '../core/chain/endpoint-at.ts';
import type { RecordedRun } from '../adapters/journal-reader.ts';
import type { Chain } from '../core/chain/model.ts';
import type { Accept, AskChange } from '../core/engine/asking.ts';
import type { RunHost } from '../core/engine/host.ts';
import type { Recorded } from '../core/engine/recorded.ts';
import type { RunSettings } from '../core/engine/settings.ts';
import type { SignInHelp } from '../core/http/auth/help.ts';
import type { JournalEvent, Json } from '../core/journal/events.ts';
import type { Listener } from '../core/journal/recorder.ts';
import type { Maybe } from '../core/value/value.ts';
import type { UsedChains } from './used-chains.ts';
import type { SecretValues } from './secret-values.ts';
import type { Workspace } from './workspace.ts';

/** A run that was found free of errors, with all that it takes to start it. */
export type RunPlan = Readonly<{
  /** The id of the run, where it has one already. */
  run?: string;
  workspace: Workspace;
  chain: Chain;
  inputs: ReadonlyMap<string, Maybe>;
  /** The chains that it uses. */
  used: UsedChains;
  /** A person who may be asked to sign in. */
  help: SignInHelp;
  at: At;
  secrets: SecretValues;
  /** What was said of the run, as its record has it. */
  options: Readonly<Record<string, Json>>;
  /** `send`, whose record is no run of a chain; choices, whose events become part of a run that is to come. */
  purpose: 'run' | 'send' | 'choices';
  /** What was done before the run began, for the first thing of its record. */
  before?: readonly JournalEvent[];
  /** Exchanges that have a number already. */
  exchanges?: number;
  ask?: AskChange | undefined;
  settings?: RunSettings;
  /** What it goes on from: the very run when its journal is continued. */
  recorded?: Recorded | undefined;
  goesOn?: RecordedRun | undefined;
  listeners: readonly Listener[];
  host: RunHost;
  /** Where `--now` set the clock. */
  now: string | null;
  accept?: Accept | undefined;
  /** Of a divided run: whether the other slices have all come to a step. */
  isLastSlice?: ((key: string) => Promise<boolean>) | undefined;
}>;

/** What requests are built from that are not sent. */
export type UnsentPlan = Pick<RunPlan, 'workspace' | 'chain' | 'used' | 'at' | 'inputs' | 'secrets' | 'host'>;
