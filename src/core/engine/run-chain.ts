import { addressOf, type Chain, type Step } from '../chain/model.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Stored } from '../journal/events.ts';
import type { Recorder } from '../journal/recorder.ts';
import { toStored } from '../journal/stored.ts';
import type { Clock, Transport } from '../ports.ts';
import { Mask, type Maybe, type Value } from '../value/value.ts';
import { plainFrame, type RunContext } from './context.ts';
import { Scope } from './scope.ts';
import { secretIn } from '../expression/secrecy.ts';
import { runStep } from './steps/list.ts';

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
  /** Whether no further request may start: what is in flight may end. */
  isStopping(): boolean;
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
  const totals = { calls: 0, exchanges: 0, expects: 0, held: 0, ms: 0 };
  let exit = 0;
  for (const [i, step] of chain.steps.entries()) {
    if (request.isStopping()) {
      exit = 130;
      recorder.record({ type: 'paused', why: 'interrupt', step: addressOf(i, nameOf(step)) });
      break;
    }
    const ended = await runStep(step, addressOf(i, nameOf(step)), context);
    if (step.kind === 'call') totals.calls++;
    totals.expects += ended.expects;
    totals.held += ended.held;
    exit = ended.outcome === 'cut' ? 130 : ended.exit;
    if (exit !== 0) break;
  }
  const { gives, stored } = evaluateGives(context);
  totals.exchanges = context.counters.exchanges;
  totals.ms = Math.round(clock.monotonicMs() - started);
  recorder.record({ type: 'finished', outcome: exit === 0 ? 'passed' : 'failed', exit, gives: stored, totals });
  await recorder.sync();
  return { exit, gives };
}

function nameOf(step: Step): string {
  return step.kind === 'call' ? step.name : step.kind;
}

function contextOf(request: RunRequest): RunContext {
  const scope = new Scope();
  for (const [name, value] of request.inputs) scope.bind(name, value);
  return { ...request, scope, secretNames: new Map(), counters: { exchanges: 0 } };
}

/** What the chain gives; an entry that is nothing, or whose names were never bound, is left out. */
function evaluateGives(context: RunContext): Readonly<{ gives: Map<string, Value>; stored: Record<string, Stored> }> {
  const gives = new Map<string, Value>();
  const stored: Record<string, Stored> = {};
  const frame = plainFrame(context, context.endpointOf(context.chain.api?.text));
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
