import { FewMap } from '../few-map.ts';
import type { Chain } from '../chain/model.ts';
import type { Source } from '../diagnostics/source.ts';
import type { SignInHelp, TokenStore } from '../http/auth/help.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Recorder } from '../journal/recorder.ts';
import { toStored } from '../journal/stored.ts';
import type { Clock, OpenCallbacks, Transport } from '../ports.ts';
import { Mask, type Maybe, type ObjectValue, type Value } from '../value/value.ts';
import type { AskChange } from './call/ask.ts';
import type { FreshRecords, Kept } from './call/replay.ts';
import { Callbacks } from './callbacks.ts';
import { WrittenFiles } from './files/written-files.ts';
import { Sessions } from './call/session.ts';
import type { RateLimiters } from '../pacing/rate-limiters.ts';
import { Pausing } from './pausing.ts';
import { Waits } from './waiting.ts';
import { chainContext, type Goal, type Part, type RunContext } from './context.ts';
import { evaluateOutputs } from './chain-outputs.ts';
import type { Accept } from './expect/accept.ts';
import type { RunHost } from './host.ts';
import { Schemas } from '../schema/json-schemas.ts';
import { runUndos } from './undos.ts';
import { runToEnd } from './chain-end.ts';
import { runStep, runSteps } from './steps/list.ts';

/** All that a run needs from outside; nothing in the core reads a clock, a disk or the network by itself. */
export type RunRequest = Readonly<{
  chain: Chain;
  inputs: ReadonlyMap<string, Maybe>;
  secrets: Readonly<Record<string, Value>>;
  endpointOf(api: string | undefined): Endpoint | undefined;
  recorder: Recorder;
  transport: Transport;
  clock: Clock;
  signal: AbortSignal;
  /** Aborted when no further request may start: what is in flight may end. */
  stopping: AbortSignal;
  host: RunHost;
  limiters: RateLimiters;
  /** Whether a spent quota is waited for, and a call that needed several tries counts as failed. */
  waitForQuota?: boolean;
  strict?: boolean;
  /** Exchanges that have a number already. */
  exchanges?: number;
  /** What it goes on from, and older responses that may stand for sending. */
  kept?: Kept | undefined;
  fresh?: FreshRecords | undefined;
  tokens: TokenStore;
  help: SignInHelp;
  /** The chain that a file of the project names, already checked. */
  chainAt(file: Source): Chain | undefined;
  accept: Accept | undefined;
  ask: AskChange | undefined;
  part?: Part | undefined;
  /** How far it goes, where that is not to its end. */
  goal?: Goal | undefined;
  /** Whether it only takes back and tidies up what was done. */
  isTidying?: boolean;
  /** Whether taking back and tidying up are left for later, because the chain is about to be run again. */
  isWatched?: boolean;
  /** Milliseconds after which no further request begins. */
  withinMs?: number | undefined;
  /** Opens addresses for callbacks. */
  openCallbacks: OpenCallbacks;
  /** What the last run that passed has remembered. */
  remembered?: ObjectValue;
  /** The id of the run. */
  run: string;
  userAgent: string;
  maxBodyBytes: number;
}>;

export type RunResult = Readonly<{
  exit: number;
  outputs: ReadonlyMap<string, Value>;
  /** What the next run is to know; only of a run that passed whole. */
  remembers: ReadonlyMap<string, Value>;
}>;

/** Bytes of a body that is held in memory, after decompression. */
export const DEFAULT_MAX_BODY_BYTES = 64 * 1024 * 1024;

/**
 * Runs a chain whose files hold no errors: its steps in order up to the first that fails, then what it gives. The
 * first event (`run`) is written by the caller, who knows of files and options. Resolves whatever happens to requests.
 */
export async function runChain(request: RunRequest): Promise<RunResult> {
  const { recorder, clock } = request;
  const started = clock.monotonicMs();
  const context = contextOf(request);
  const ended = new AbortController();
  if (request.withinMs !== undefined) {
    void clock.sleep(request.withinMs, ended.signal).then(() => {
      if (!ended.signal.aborted) context.pausing.begin({ why: 'within' });
    });
  }
  const outcome = await runToEnd(context, '', runUndos);
  ended.abort();
  const why = context.pausing.pause?.why;
  const isReached = why === 'to' || why === 'only' || why === 'watch';
  const isPaused = outcome.exit === 130 || isReached;
  const exit = isPaused && outcome.exit === 130 ? context.pausing.exit : strictly(outcome.exit, request, context);
  context.callbacks.close();
  for (const event of context.writtenFiles.close()) recorder.record(event);
  const { real, secrets } = evaluateOutputs(context, exit === 0 ? 'passed' : 'failed');
  const shown = [...real].map(([name, value]): [string, Value] => {
    const secret = secrets.get(name);
    return [name, secret === undefined ? value : new Mask(secret)];
  });
  const outputs = new Map(shown);
  const stored = Object.fromEntries(shown.map(([name, value]) => [name, toStored(value)]));
  const { calls, expects, passed } = outcome;
  const ms = Math.round(clock.monotonicMs() - started);
  const { exchanges: last, retried, failed } = context.counters;
  const exchanges = last - firstExchange(request);
  const totals = { calls, failed, exchanges, expects, passed, retried, ms, waited: context.waits.totals() };
  if (isPaused) recorder.record({ type: 'paused', ...context.pausing.pause!, exit, totals });
  else recorder.record({ type: 'finished', outcome: exit === 0 ? 'passed' : 'failed', exit, outputs: stored, totals });
  await recorder.sync();
  const isWhole = exit === 0 && !request.part && !request.goal && request.kept?.mode !== 'rehearse';
  const remembers = isWhole ? context.memory.later : new Map<string, Value>();
  return { exit, outputs, remembers };
}

/** The number of the last exchange that the journal holds already. */
function firstExchange({ kept, exchanges = 0 }: RunRequest): number {
  return kept?.isSameRun ? kept.records.last : exchanges;
}

/** With `--strict` a call that passed only after more than one try has failed. */
function strictly(exit: number, { strict }: RunRequest, { counters }: RunContext): number {
  return strict && exit === 0 && counters.retried > 0 ? 1 : exit;
}

/** The context in which a chain runs, at its start. */
export function contextOf(request: RunRequest): RunContext {
  const { host: runHost, tokens, help, recorder, clock } = request;
  const pausing = new Pausing(recorder, request.stopping);
  const outer = {
    ...request,
    part: request.part,
    goal: request.goal,
    isTidying: request.isTidying ?? false,
    isWatched: request.isWatched ?? false,
    waitForQuota: request.waitForQuota ?? false,
    kept: request.kept,
    fresh: request.fresh,
    replayed: undefined,
    round: undefined,
    printed: new FewMap<string, string>(),
    pausing,
    stopping: pausing.signal,
    waits: new Waits(clock, recorder),
    callbacks: new Callbacks(),
    memory: { before: request.remembered ?? {}, later: new Map<string, Value>() },
    runHost,
    schemas: new Schemas((path) => runHost.readFile(path)),
    sessions: new Sessions(tokens, help),
    runSteps,
    runStep,
    writtenFiles: new WrittenFiles(
      request.clock,
      (event) => recorder.record(event),
      (path) => (request.kept?.isSameRun ? request.kept.records.file(path) : undefined),
    ),
    undos: [],
    isHalted: () => false,
    ending: undefined,
    keyPrefix: '',
    item: undefined,
    purpose: 'call' as const,
    counters: { exchanges: firstExchange(request), retried: 0, failed: 0 },
    unasked: new Set<string>(),
  };
  return chainContext(outer, request.inputs, new Map());
}
