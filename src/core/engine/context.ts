import type { FewMap } from '../few-map.ts';
import type { Frame } from '../expression/frame.ts';
import { frameOf } from '../expression/frame.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Json, Read } from '../journal/events.ts';
import type { Recorder } from '../journal/recorder.ts';
import type { Accept } from './expect/accept.ts';
import type { Schemas } from '../schema/json-schemas.ts';
import type { StepOutcome, StepsOutcome } from './steps/definition.ts';
import type { CallStep, Chain, Step } from '../chain/model.ts';
import { RESPONSE_NAMES } from '../chain/names.ts';
import type { Node } from '../expression/model.ts';
import { namesRead } from '../expression/names-read.ts';
import type { Clock, OpenCallbacks, Transport } from '../ports.ts';
import type { Maybe, ObjectValue, Value } from '../value/value.ts';
import type { Source } from '../diagnostics/source.ts';
import type { AskChange } from './call/ask.ts';
import type { Callbacks } from './callbacks.ts';
import type { WrittenFiles } from './files/written-files.ts';
import type { Sessions } from './call/session.ts';
import { StepHost, type RunHost } from './host.ts';
import type { FreshRecords, Kept, Replayed } from './call/replay.ts';
import { Redone } from './redone.ts';
import type { Pausing } from './pausing.ts';
import type { Waits } from './waiting.ts';
import type { RateLimiters } from '../pacing/rate-limiters.ts';
import type { ResponseView } from './response-names.ts';
import { Scope } from './scope.ts';
import { SecretNames } from './secret-names.ts';

/** What every step of a run has at hand. */
export type RunContext = Readonly<{
  chain: Chain;
  scope: Scope;
  /** Values of `secret.NAME`. */
  secrets: ObjectValue;
  /** Names whose values are secret, and the name under which they are masked. */
  secretNames: SecretNames;
  schemas: Schemas;
  /** Asks whether a response is to be what a file holds; absent without `--accept`. */
  accept: Accept | undefined;
  /** Asks before a request that changes something; absent without `--ask`. */
  ask: AskChange | undefined;
  /** Calls about whose changes nothing more is asked. */
  unasked: Set<string>;
  /** What its expressions may ask for; each step has its own. */
  host: StepHost;
  runHost: RunHost;
  /** Credentials at work, cookies, connections. */
  sessions: Sessions;
  /** The chain that a file of the project names. */
  chainAt(file: Source): Chain | undefined;
  endpointOf(api: string | undefined): Endpoint | undefined;
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
  /** What the run goes on from, and older responses that may stand for sending. */
  kept: Kept | undefined;
  fresh: FreshRecords | undefined;
  /** The recorded call that stands for sending the present one. */
  replayed: Replayed | undefined;
  redone: Redone;
  /** Fingerprints of what is sent for calls under way, by the keys of their steps. */
  printed: FewMap<string, string>;
  /** The round that a step is in, and what its last response asked to wait, in milliseconds. */
  round: { retryAfterMs: number } | undefined;
  /** Whether a spent quota is waited for. */
  waitForQuota: boolean;
  /** Whether the loop around has been stopped: what is under way may end, and nothing new begins. */
  isHalted(): boolean;
  /** What stands before the keys of steps: the loops and items that they are in. */
  keyPrefix: string;
  /** The item that its steps are for. */
  item: ItemRef | undefined;
  /** How the chain went, for its cleanup. */
  ending: 'passed' | 'failed' | undefined;
  /** A part of the items of each outermost loop: the first so many, or so many spread over it. */
  part: Part | undefined;
  goal: Goal | undefined;
  /** Whether nothing is done any more but undos and cleanup. */
  isTidying: boolean;
  /** Whether undos and cleanup are left for later. */
  isWatched: boolean;
  /** What was remembered when the run began, and what the next one is to know. */
  memory: Readonly<{ before: ObjectValue; later: Map<string, Value> }>;
  openCallbacks: OpenCallbacks;
  /** Addresses that are listened at. */
  callbacks: Callbacks;
  /** Files of rows that the run writes. */
  writtenFiles: WrittenFiles;
  /** What will take back what was made, in the order in which it was made; shared by used chains. */
  undos: UndoEntry[];
  /** Runs one step, at an address. */
  runStep(step: Step, address: string, context: RunContext): Promise<StepOutcome>;
  /** Runs the steps inside a step. */
  runSteps(steps: readonly Step[], inside: string, context: RunContext): Promise<StepsOutcome>;
  userAgent: string;
  maxBodyBytes: number;
  counters: { exchanges: number; retried: number; failed: number };
  /** What requests are sent for: the steps of the run, a chain that signs in, or one that gives choices. */
  purpose: 'call' | 'undo' | 'sign-in' | 'choices';
  /** The id of the run, and the steps of it that failed. */
  run: string;
  failed: FailedStep[];
}>;

/** An item of a loop: its number from 1, what it is matched by when lists change, and what it is called. */
export type ItemRef = Readonly<{ number: number; id: string; label?: string }>;

/** The call up to which a run goes, and for which items; alone, it is the only one that is sent. */
export type Goal = Readonly<{ call: string; items: readonly number[]; isAlone: boolean }>;

export type Part = Readonly<{ first: number }> | Readonly<{ sample: number }>;

/** A request that takes something back: a call, and the context whose names it reads. */
export type UndoEntry = Readonly<{ n: number; address: string; step: CallStep; context: RunContext }>;

/** A step that failed, as `run.failed` tells it. */
export type FailedStep = Readonly<{
  address: string;
  step: string;
  item: Json;
  code: string;
  reason: string;
  status: number | null;
  /** Where in the file the expectation or expression stands that failed. */
  place: string;
}>;

/** The context of a chain at its start: its inputs in a scope of its own, those that are secret known as such. */
export function chainContext(
  outer: Omit<RunContext, 'scope' | 'secretNames' | 'host' | 'failed' | 'redone'> & Readonly<{ redone?: Redone }>,
  inputs: ReadonlyMap<string, Maybe>,
  secretInputs: ReadonlyMap<string, string>,
): RunContext {
  const { chain, runHost } = outer;
  const scope = new Scope();
  for (const [name, value] of inputs) scope.bind(name, value);
  const secretNames = new SecretNames();
  for (const { name, type } of chain.inputs) if (type === 'secret') secretNames.set(name, name);
  for (const [name, secret] of secretInputs) secretNames.set(name, secret);
  return {
    ...outer,
    scope,
    secretNames,
    host: new StepHost(runHost, 'outputs'),
    failed: [],
    redone: new Redone(outer.redone),
  };
}

/** The chain's default api where the run is: whose settings steps read that belong to no api of their own. */
export function endpointOfChain({ chain, endpointOf }: RunContext): Endpoint | undefined {
  return endpointOf(chain.api?.text);
}

/** The frame of an expression outside of response keys. */
export function plainFrame(context: RunContext, endpoint = endpointOfChain(context)): Frame {
  const { host } = context;
  const ending = context.ending;
  const value = (name: string): Maybe =>
    name === 'run' && ending ? runValue(context, ending) : outerName(context, endpoint, name);
  return frameOf(undefined, value, host);
}

/** The frame of a response key: there the short names mean the response, whatever else is called so. */
export function responseFrame(context: RunContext, endpoint: Endpoint | undefined, view: ResponseView): Frame {
  const value = (name: string): Maybe => {
    const own = RESPONSE_NAMES.has(name) ? view.name(name) : name === 'response' ? view.all() : undefined;
    return own ?? outerName(context, endpoint, name);
  };
  return frameOf(view.body, value, context.host.beside(view.host));
}

function outerName({ scope, secrets, memory }: RunContext, endpoint: Endpoint | undefined, name: string): Maybe {
  const bound = scope.get(name);
  if (bound) return bound.value;
  if (name === 'secret') return secrets;
  if (name === 'remembered') return memory.before;
  return name === 'setting' ? endpoint?.settings : undefined;
}

/** `run` as the end of a chain reads it. */
export function runValue({ run, failed }: RunContext, outcome: 'passed' | 'failed'): ObjectValue {
  return { id: run, outcome, failed: failed.map(({ place: _place, ...each }) => each) };
}

/** What an expression read, each name with the address of the step that bound it. */
export function readsOf(tree: Node, scope: Scope): Read[] {
  return namesRead(tree).map((name) => {
    const from = scope.get(name)?.from;
    return from === undefined ? { name } : { name, from };
  });
}
