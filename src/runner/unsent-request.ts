import { systemClock } from '../adapters/clock.ts';
import { signInHelp } from '../adapters/sign-in-help.ts';
import type { StepFrame } from '../core/engine/frame.ts';
import { openRun, DEFAULT_MAX_BODY_BYTES, type RunRequest } from '../core/engine/run-chain.ts';
import { noStore } from '../core/journal/no-store.ts';
import { Recorder } from '../core/journal/recorder.ts';
import { MemoryLimiters } from '../core/pacing/limiter-state.ts';
import { LockedLimiters } from '../core/pacing/locked-limiters.ts';
import { RateLimiters } from '../core/pacing/rate-limiters.ts';
import type { Clock } from '../core/ports.ts';
import type { Caller } from './caller.ts';
import { endpointsFor } from './endpoints.ts';
import type { UnsentPlan } from './run-plan.ts';
import { USER_AGENT } from './version.ts';

/** What a run is made of that sends nothing: no record, no network, nobody to ask. */
export function unsentRequest(plan: UnsentPlan, recorder: Recorder, clock: Clock, caller: Caller): RunRequest {
  const { workspace, chain, used, at, inputs, secrets, host } = plan;
  const never = () => Promise.reject(new Error('Nothing is sent here'));
  const signal = new AbortController().signal;
  return {
    id: '',
    settings: {},
    chain,
    inputs,
    secrets,
    endpointOf: endpointsFor(chain, workspace, at),
    recorder,
    limiters: new RateLimiters(new LockedLimiters(new MemoryLimiters(), clock), clock, undefined),
    transport: { exchange: never, close: async () => {} },
    clock,
    signal,
    stopping: signal,
    host,
    help: signInHelp(false, caller.exit),
    tokens: { withLock: never },
    chainAt: used.chainAt,
    openCallbacks: never,
    userAgent: USER_AGENT,
    maxBodyBytes: DEFAULT_MAX_BODY_BYTES,
  };
}

/** The frame in which requests are built that are not sent. */
export function buildingFrame(plan: UnsentPlan, caller: Caller): StepFrame {
  for (const [name, value] of Object.entries(plan.secrets)) caller.exit.masker.add(name, value);
  const recorder = new Recorder(systemClock, caller.exit.masker, noStore(), []);
  return openRun(unsentRequest(plan, recorder, systemClock, caller));
}
