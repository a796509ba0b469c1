import type { Chain } from '../chain/model.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Stored } from '../journal/events.ts';
import type { Recorder } from '../journal/recorder.ts';
import { toStored } from '../journal/stored.ts';
import type { Clock, Transport } from '../ports.ts';
import { Mask, type Maybe, type Value } from '../value/value.ts';
import { plainFrame, type RunContext } from './context.ts';
import { Scope } from './scope.ts';
import { secretIn } from '../expression/secrecy.ts';
import type { Accept } from './expect/accept.ts';
import { StepHost, type RunHost } from './host.ts';
import { Schemas } from '../schema/json-schemas.ts';
import { runSteps } from './steps/list.ts';

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
  accept: Accept | undefined;
  /** The id of the run. */
  run: string;
  userAgent: string;
  maxBodyBytes: number;
}>;

export type RunResult = Readonly<{ exit: number; gives: ReadonlyMap<string, Value> }>;

/** Bytes of a body that is held in memory, after decompression. */
export const DEFAULT_MAX_BODY_BYTES = 64 * 1024 * 1024;

/**
 * Runs a chain whose files hold no errors: its steps in order up to the first that fails, then what it gives. The
 * first event (`run`) is written by the caller, who knows of files and options. Resolves whatever happens to requests.
 */
export async function runChain(request: RunRequest): Promise<RunResult> {
  const { chain, recorder, clock } = request;
  const started = clock.monotonicMs();
  const context = contextOf(request);
  const outcome = await runSteps(chain.steps, '', context);
  const { exit } = outcome;
  const { gives, stored } = evaluateGives(context, exit === 0 ? 'passed' : 'failed');
  const { calls, expects, held } = outcome;
  const ms = Math.round(clock.monotonicMs() - started);
  const totals = { calls, exchanges: context.counters.exchanges, expects, held, ms };
  recorder.record({ type: 'finished', outcome: exit === 0 ? 'passed' : 'failed', exit, gives: stored, totals });
  await recorder.sync();
  return { exit, gives };
}

function contextOf(request: RunRequest): RunContext {
  const scope = new Scope();
  const secretNames = new Map<string, string>();
  for (const [name, value] of request.inputs) scope.bind(name, value);
  for (const { name, type } of request.chain.takes) if (type === 'secret') secretNames.set(name, name);
  const { host: runHost } = request;
  return {
    ...request,
    scope,
    secretNames,
    runHost,
    host: new StepHost(runHost, 'gives'),
    schemas: new Schemas((path) => runHost.readFile(path)),
    runSteps,
    counters: { exchanges: 0 },
    failed: [],
  };
}

/** What the chain gives; an entry that is nothing, or whose names were never bound, is left out. */
function evaluateGives(
  context: RunContext,
  outcome: 'passed' | 'failed',
): Readonly<{ gives: Map<string, Value>; stored: Record<string, Stored> }> {
  const gives = new Map<string, Value>();
  const stored: Record<string, Stored> = {};
  const plain = plainFrame(context);
  const run: Value = { id: context.run, outcome, failed: context.failed };
  const frame: Frame = { ...plain, name: (name) => (name === 'run' ? run : plain.name(name)) };
  for (const { name, value: expression } of context.chain.gives) {
    const { value } = evaluate(expression.tree!, frame);
    if (value === undefined) continue;
    const secret = secretIn(expression.tree!, context.secretNames);
    const shown = secret === undefined ? value : new Mask(secret);
    gives.set(name, shown);
    stored[name] = toStored(shown);
  }
  return { gives, stored };
}
