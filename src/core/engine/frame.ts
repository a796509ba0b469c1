import type { Chain, CallStep, Step } from '../chain/model.ts';
import type { Source } from '../diagnostics/source.ts';
import type { Mark } from '../expression/secrecy.ts';
import type { EndpointOf } from '../chain/endpoints.ts';
import type { Auth } from '../http/auth/definition.ts';
import type { Address } from '../journal/address.ts';
import type { EventOf, Json } from '../journal/events.ts';
import type { Recorder } from '../journal/recorder.ts';
import type { RateLimiters } from '../pacing/rate-limiters.ts';
import type { Clock, OpenCallbacks, Transport } from '../ports.ts';
import type { Schemas } from '../schema/json-schemas.ts';
import type { ObjectValue, Value } from '../value/value.ts';
import type { Accept, AskChange } from './asking.ts';
import type { Callbacks } from './callbacks.ts';
import type { Sessions } from './call/session.ts';
import type { WrittenFiles } from './files/written-files.ts';
import type { RunHost, StepHost } from './host.ts';
import type { StepOutcome, StepsOutcome } from './outcome.ts';
import type { Pausing } from './pausing.ts';
import type { FreshRecords, Recorded } from './recorded.ts';
import type { ReexecutionFlag } from './reexecution-flag.ts';
import type { Scope } from './scope.ts';
import type { SecretNames } from './secret-names.ts';
import type { RunSettings } from './settings.ts';
import type { Waits } from './waiting.ts';

/** What lives as long as a run, the same for all of its steps. */
export type Run = Readonly<{
  id: string;
  settings: RunSettings;
  recorder: Recorder;
  transport: Transport;
  clock: Clock;
  /** Aborted to cut requests in flight. */
  signal: AbortSignal;
  /** Aborted when no further request may start and waits are to end. */
  stopping: AbortSignal;
  /** The wish to stop before the end, and why. */
  pausing: Pausing;
  waits: Waits;
  /** How fast may be sent where. */
  limiters: RateLimiters;
  schemas: Schemas;
  /** Values of `secret.NAME`. */
  secrets: ObjectValue;
  /** Asks whether a response is to be what a file holds; absent without `--accept`. */
  accept: Accept | undefined;
  /** Asks before a request that changes something; absent without `--ask`. */
  ask: AskChange | undefined;
  /** Calls about whose changes nothing more is asked. */
  unasked: Set<string>;
  /** Older responses that may stand for sending. */
  fresh: FreshRecords | undefined;
  openCallbacks: OpenCallbacks;
  /** Files of rows that the run writes. */
  writtenFiles: WrittenFiles;
  /** What will take back what was made, in the order in which it was made; shared by used chains. */
  undos: UndoEntry[];
  /** Operations of descriptions that were asked for, by the file of each. */
  exercised: Map<string, Readonly<{ of: number; names: Set<string> }>>;
  counters: { exchanges: number; retried: number; failed: number; notes: number };
  /** Whether all other slices of a divided run have come to a step; this one is counted with it. */
  isLastSlice(key: string): Promise<boolean>;
  /** Whether something secret may be part of a request to an api of the project, or to the origin of another server. */
  mayCarry(mark: Mark, to: string): boolean;
  /** Credentials of apis that their servers refused in this run. */
  refused: Set<Auth>;
  userAgent: string;
  maxBodyBytes: number;
  /** The chain that a file of the project names. */
  chainAt(file: Source): Chain | undefined;
  /** Runs one step, at an address. */
  runStep(step: Step, address: Address, outer: StepFrame): Promise<StepOutcome>;
  /** Runs the steps inside a step. */
  runSteps(steps: readonly Step[], inside: Address, outer: StepFrame): Promise<StepsOutcome>;
}>;

/** What a step sees of what is around it: its own for each chain, item, round and step. */
export type StepFrame = Readonly<{
  run: Run;
  chain: Chain;
  scope: Scope;
  /** Names whose values are secret. */
  secretNames: SecretNames;
  /** Where the step stands, and what it is known by when steps are moved; both empty outside of steps. */
  address: Address;
  key: string;
  /** What stands before the keys of steps: the loops and items that they are in. */
  keyPrefix: string;
  /** What its expressions may ask for; each step has its own. */
  host: StepHost;
  runHost: RunHost;
  /** Credentials at work, cookies, connections. */
  sessions: Sessions;
  endpointOf: EndpointOf;
  /** Addresses that are listened at. */
  callbacks: Callbacks;
  /** What was remembered when the run began, and what the next one is to know. */
  memory: Readonly<{ before: ObjectValue; later: Map<string, Value> }>;
  /** What the run goes on from. */
  recorded: Recorded | undefined;
  redone: ReexecutionFlag;
  /** The item that its steps are for. */
  item: ItemRef | undefined;
  /** The round that a step is in, and what its last response asked to wait, in milliseconds. */
  round: { retryAfterMs: number } | undefined;
  /** Whether the loop around has been stopped: what is under way may end, and nothing new begins. */
  isHalted(): boolean;
  /** Whether nothing is done any more but undos and cleanup. */
  cleanupOnly: boolean;
  /** How the chain went, for its cleanup. */
  ending: 'passed' | 'failed' | undefined;
  /** What requests are sent for. */
  purpose: Exclude<EventOf<'sent'>['purpose'], 'token'>;
  /** The steps of the chain that failed. */
  failed: FailedStep[];
}>;

/** An item of a loop: its number from 1, what it is matched by when lists change, what it is called, and whether an event of its own says so. */
export type ItemRef = Readonly<{ number: number; id: string; label?: string; isTold?: boolean }>;

/** A request that takes something back: a call, and the frame whose names it reads. */
type UndoEntry = Readonly<{ n: number; step: CallStep; context: StepFrame }>;

/** A step that failed, as `run.failed` tells it. */
export type FailedStep = Readonly<{
  address: Address;
  step: string;
  item: Json;
  code: string;
  reason: string;
  status: number | null;
  /** Where in the file the expectation or expression stands that failed. */
  place: string;
}>;
