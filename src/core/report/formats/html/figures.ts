import { placeInChain } from '../../../journal/address.ts';
import type { CallSummary } from '../../call-summary.ts';
import type { RunSummary } from '../../run-summary.ts';

/** Stretches of time in which requests are counted. */
const BUCKETS = 160;
/** Calls that have a row of their own in the timeline; of more, stretches of time are counted. */
const MAX_ROWS = 60;
/** Steps that have a band of their own. */
const MAX_BANDS = 24;

/** The calls of one step over the whole run. */
export type StepFigures = {
  readonly place: string;
  readonly name: string;
  /** Milliseconds of the last attempt of each call, without waits. */
  readonly times: number[];
  calls: number;
  failed: number;
  requests: number;
  /** Requests that were sent in each stretch of time, and those of them without a good response. */
  readonly sent: Uint32Array;
  readonly bad: Uint32Array;
};

/** What a page draws of all calls, gathered in one pass. */
export type Figures = Readonly<{
  steps: readonly StepFigures[];
  /** The calls that sent something, where there are few. */
  rows: readonly CallSummary[] | undefined;
  fromMs: number;
  untilMs: number;
}>;

/** Goes over the calls of a run once. */
export function figuresOf(run: RunSummary): Figures {
  const fromMs = run.startedMs;
  const untilMs = Math.max(run.endedMs, fromMs + 1);
  const steps = new Map<string, StepFigures>();
  const rows: CallSummary[] = [];
  for (const call of run.calls) {
    const exchanges = [...call.earlier, ...call.exchanges];
    if (exchanges.length === 0) continue;
    if (rows.length <= MAX_ROWS) rows.push({ ...call, exchanges });
    const step = stepOf(steps, call);
    step.calls++;
    step.requests += exchanges.length;
    if (call.outcome === 'failed') step.failed++;
    const last = exchanges.at(-1)!;
    // A damaged record may hold times that are none.
    if (last.status !== undefined && last.ms >= 0 && last.ms < Infinity) step.times.push(last.ms);
    for (const { fromMs: at, status } of exchanges) {
      const bucket = Math.min(BUCKETS - 1, Math.max(0, Math.floor(((at - fromMs) / (untilMs - fromMs)) * BUCKETS)));
      step.sent[bucket]!++;
      if (status === undefined || status >= 400) step.bad[bucket]!++;
    }
  }
  return { steps: [...steps.values()], rows: rows.length > MAX_ROWS ? undefined : rows, fromMs, untilMs };
}

/** The figures of a call's step; those of a chain with very many steps are put together. */
function stepOf(steps: Map<string, StepFigures>, { address, name }: CallSummary): StepFigures {
  const place = placeInChain(address);
  const known = steps.get(place);
  if (known) return known;
  const key = steps.size >= MAX_BANDS ? 'others' : place;
  const there = steps.get(key);
  if (there) return there;
  const step: StepFigures = {
    place: key === 'others' ? '' : place,
    name: key === 'others' ? 'other steps' : name,
    times: [],
    calls: 0,
    failed: 0,
    requests: 0,
    sent: new Uint32Array(BUCKETS),
    bad: new Uint32Array(BUCKETS),
  };
  steps.set(key, step);
  return step;
}
