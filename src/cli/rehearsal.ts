import type { RecordedRun } from '../adapters/journal-reader.ts';
import { signInHelp } from '../adapters/sign-in-help.ts';
import type { Clock, JournalStore } from '../core/ports.ts';
import type { Kept } from '../core/engine/call/replay.ts';
import { DEFAULT_MAX_BODY_BYTES, runChain, type RunResult } from '../core/engine/run-chain.ts';
import { Recorder, type Listener } from '../core/journal/recorder.ts';
import { fromStored } from '../core/journal/stored.ts';
import { MemoryLimiters } from '../core/pacing/limiter-state.ts';
import { RateLimiters } from '../core/pacing/rate-limiters.ts';
import type { ObjectValue } from '../core/value/value.ts';
import type { Io } from './io.ts';
import { endpointsFor, type RunPlan } from './start-run.ts';
import { USER_AGENT } from './version.ts';
import { withoutFiles } from './without-files.ts';

/** A clock on which no time passes: what was waited for in the recording is not waited for again. */
const timeless = (nowMs: number): Clock => ({ nowMs: () => nowMs, monotonicMs: () => 0, sleep: async () => {} });

/** Runs a chain on recorded responses: no socket is opened, no file written, no record made. */
export function rehearse(
  plan: Pick<RunPlan, 'workspace' | 'chain' | 'used' | 'at' | 'inputs' | 'host'>,
  record: RecordedRun,
  kept: Kept,
  /** What is secret, stood for by its mask. */
  secrets: Readonly<Record<string, string>>,
  listeners: readonly Listener[],
  io: Io,
): Promise<RunResult> {
  const { workspace, chain, used, at, inputs, host } = plan;
  const [first] = record.journal;
  if (first?.type !== 'run') throw new Error('A record begins with its run');
  const never = () => Promise.reject(new Error('Nothing is sent in a rehearsal'));
  const store: JournalStore = {
    append: () => {},
    storeBody: (content) => ({ sha256: '', size: content.length, text: String(content) }),
    sync: async () => {},
    close: async () => {},
  };
  const clock = timeless(first.at);
  const signal = new AbortController().signal;
  const recorder = new Recorder(clock, io.exit.masker, store, listeners);
  recorder.record({ ...first, run: `rehearsal of ${record.id}` });
  const remembered: ObjectValue = Object.fromEntries(
    Object.entries(first.remembered).map(([name, stored]) => [name, fromStored(stored) ?? null]),
  );
  return runChain({
    run: record.id,
    chain,
    inputs,
    secrets,
    endpointOf: endpointsFor(chain, workspace, at),
    recorder,
    limiters: new RateLimiters(new MemoryLimiters(), clock, undefined),
    transport: { exchange: never, close: async () => {} },
    clock,
    signal,
    stopping: signal,
    host: withoutFiles(host),
    help: signInHelp(false, io.exit),
    tokens: { alone: never },
    chainAt: used.chainAt,
    accept: undefined,
    ask: undefined,
    kept,
    remembered,
    openCallbacks: never,
    userAgent: USER_AGENT,
    maxBodyBytes: DEFAULT_MAX_BODY_BYTES,
  });
}
