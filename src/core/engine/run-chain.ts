import type { Chain } from '../chain/model.ts';
import type { Auth } from '../http/auth/definition.ts';
import type { SignInHelp, TokenStore } from '../http/auth/help.ts';
import { toStored } from '../journal/stored.ts';
import { Schemas } from '../schema/json-schemas.ts';
import { Mask, type Maybe, type ObjectValue, type Value } from '../value/value.ts';
import { Sessions } from './call/session.ts';
import { Callbacks } from './callbacks.ts';
import { runToEnd } from './chain-end.ts';
import { evaluateOutputs } from './chain-outputs.ts';
import { WrittenFiles } from './files/written-files.ts';
import { callsOf } from '../chain/steps/inside.ts';
import type { StepsOutcome } from './outcome.ts';
import type { Run, StepFrame } from './frame.ts';
import { chainFrame } from './frames.ts';
import type { RunHost } from './host.ts';
import { Pausing } from './pausing.ts';
import type { Recorded } from './recorded.ts';
import type { RunSettings } from './settings.ts';
import { runStep, runSteps } from './steps/list.ts';
import { runUndos } from './undos.ts';
import { Waits } from './waiting.ts';

/** All that a run needs from outside; nothing in the core reads a clock, a disk or the network by itself. */
export type RunRequest = Readonly<{
  settings: RunSettings;
  chain: Chain;
  inputs: ReadonlyMap<string, Maybe>;
  host: RunHost;
  /** What it goes on from. */
  recorded?: Recorded | undefined;
  /** Exchanges that have a number already. */
  exchanges?: number;
  tokens: TokenStore;
  help: SignInHelp;
  /** What the last run that passed has remembered. */
  remembered?: ObjectValue;
}> &
  Pick<StepFrame, 'endpointOf'> &
  Pick<
    Run,
    'id' | 'recorder' | 'transport' | 'clock' | 'signal' | 'stopping' | 'limiters' | 'secrets' | 'openCallbacks'
  > &
  Pick<Run, 'chainAt' | 'userAgent' | 'maxBodyBytes'> &
  Partial<Pick<Run, 'accept' | 'ask' | 'fresh' | 'mayCarry' | 'isLastSlice'>>;

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
  const { recorder, clock, settings } = request;
  const started = clock.monotonicMs();
  const context = openRun(request);
  const { run } = context;
  const outcome = await withinTime(request, run, () => runToEnd(context, '', runUndos));
  if (outcome.exit === 0 && didNothing(outcome, request, run)) {
    recorder.record({ type: 'note', code: 'nothing-to-check', level: 'warning', message: DID_NOTHING });
    run.counters.notes++;
  }
  context.callbacks.close();
  for (const event of run.writtenFiles.close()) recorder.record(event);
  const { exit, isPaused } = exitOfRun(outcome, run);
  const outputs = shownOutputs(context, exit);
  const totals = totalsOf(outcome, request, run, Math.round(clock.monotonicMs() - started));
  const stored = Object.fromEntries([...outputs].map(([name, value]) => [name, toStored(value)]));
  if (isPaused) recorder.record({ type: 'paused', ...run.pausing.pause!, exit, totals });
  else recorder.record({ type: 'finished', outcome: exit === 0 ? 'passed' : 'failed', exit, outputs: stored, totals });
  await recorder.sync();
  const isWhole = exit === 0 && !settings.part && !settings.goal && request.recorded?.mode !== 'rehearse';
  return { exit, outputs, remembers: isWhole ? context.memory.later : new Map<string, Value>() };
}

/** The steps of a run, which pauses when its time is over. */
async function withinTime<T>({ clock, settings }: RunRequest, { pausing }: Run, work: () => Promise<T>): Promise<T> {
  const ended = new AbortController();
  if (settings.withinMs !== undefined) {
    void clock.sleep(settings.withinMs, ended.signal).then(() => {
      if (!ended.signal.aborted) pausing.begin({ why: 'within' });
    });
  }
  const result = await work();
  ended.abort();
  return result;
}

/** Reasons to pause that are no end of the run although all that was asked for is done. */
const STAYS: ReadonlySet<string | undefined> = new Set(['to', 'only', 'watch']);

function exitOfRun(outcome: StepsOutcome, run: Run): Readonly<{ exit: number; isPaused: boolean }> {
  const { pausing } = run;
  if (outcome.exit === 130) return { exit: pausing.exit, isPaused: true };
  return { exit: strictly(outcome.exit, run), isPaused: STAYS.has(pausing.pause?.why) };
}

function totalsOf({ calls, expects, passed }: StepsOutcome, request: RunRequest, run: Run, ms: number) {
  const { exchanges: last, retried, failed, notes } = run.counters;
  const exchanges = last - firstExchange(request);
  const contracts = [...run.exercised].map(([file, { of, names }]) => ({ file, exercised: names.size, of }));
  const beside = contracts.length === 0 ? {} : { contracts };
  return { calls, failed, exchanges, expects, passed, retried, notes, ...beside, ms, waited: run.waits.totals() };
}

const DID_NOTHING = 'Nothing was sent and nothing was expected: every call was skipped';

/** Whether a chain that has calls made none, and expected nothing. */
function didNothing({ calls, expects }: StepsOutcome, { chain, settings }: RunRequest, { counters }: Run): boolean {
  const isAll = !settings.part && !settings.goal && !settings.cleanupOnly;
  return isAll && calls + expects + counters.exchanges === 0 && callsOf(chain).length > 0;
}

/** What the chain gives, with masks in place of secrets. */
function shownOutputs(context: StepFrame, exit: number): ReadonlyMap<string, Value> {
  const { real, secrets } = evaluateOutputs(context, exit === 0 ? 'passed' : 'failed');
  return new Map(
    [...real].map(([name, value]): [string, Value] => {
      const secret = secrets.get(name)?.name;
      return [name, secret === undefined ? value : new Mask(secret)];
    }),
  );
}

/** The number of the last exchange that the journal holds already. */
function firstExchange({ recorded, exchanges = 0 }: RunRequest): number {
  return recorded?.isSameRun ? recorded.records.last : exchanges;
}

/** With `--strict` a call that passed only after more than one try has failed, and so has what passed with a note. */
function strictly(exit: number, { settings, counters }: Run): number {
  return settings.strict && exit === 0 && counters.retried + counters.notes > 0 ? 1 : exit;
}

/** A run, and the frame in which its chain begins. */
export function openRun(request: RunRequest): StepFrame {
  const { chain, inputs, host, tokens, help, recorded, remembered = {}, endpointOf, ...shared } = request;
  const { settings, recorder, clock } = shared;
  const pausing = new Pausing(recorder, request.stopping);
  const run: Run = {
    ...shared,
    accept: request.accept,
    ask: request.ask,
    fresh: request.fresh,
    mayCarry: request.mayCarry ?? (() => true),
    // Nobody knows of the others.
    isLastSlice: request.isLastSlice ?? (() => Promise.resolve(false)),
    pausing,
    stopping: pausing.signal,
    waits: new Waits(clock, recorder),
    schemas: new Schemas((path) => host.readFile(path)),
    writtenFiles: new WrittenFiles(
      clock,
      (event) => recorder.record(event),
      (path) => (recorded?.isSameRun ? recorded.records.steps.file(path) : undefined),
    ),
    undos: [],
    unasked: new Set<string>(),
    refused: new Set<Auth>(),
    exercised: new Map<string, Readonly<{ of: number; names: Set<string> }>>(),
    counters: { exchanges: firstExchange(request), retried: 0, failed: 0, notes: 0 },
    runStep,
    runSteps,
  };
  const outer = {
    run,
    chain,
    runHost: host,
    sessions: new Sessions(tokens, help),
    endpointOf,
    callbacks: new Callbacks(),
    memory: { before: remembered, later: new Map<string, Value>() },
    recorded,
    cleanupOnly: settings.cleanupOnly ?? false,
    isHalted: () => false,
    ending: undefined,
    keyPrefix: '',
    item: undefined,
    round: undefined,
    purpose: 'call' as const,
  };
  return chainFrame(outer, inputs, new Map());
}
