import type { JournalEvent } from '../journal/events.ts';
import type { CallSummary } from './call-summary.ts';
import { CallTeller, type EndsAgain } from './call-teller.ts';
import type { RunSource } from './run-source.ts';

/** The calls of a run in the order in which they began: told anew from the journal each time, so that none is held. */
export type CallList = Iterable<CallSummary> &
  Readonly<{
    length: number;
    /** Those that were skipped or cut off. */
    skipped: number;
    /** Those that failed, held. */
    failures: readonly (CallSummary & Readonly<{ failure: NonNullable<CallSummary['failure']> }>)[];
  }>;

/** What is counted of calls, and held. */
export class CallTally {
  length = 0;
  skipped = 0;
  readonly failures: CallList['failures'][number][] = [];

  add(call: CallSummary): void {
    this.length++;
    if (call.outcome === 'skipped' || call.outcome === 'cut') this.skipped++;
    if (call.failure) this.failures.push({ ...call, failure: call.failure });
  }
}

export const NO_CALLS: CallList = { [Symbol.iterator]: () => [][Symbol.iterator](), ...new CallTally() };

/** The calls of a source; `again` are those that ended anew when the run went on. */
export function callsOf(source: RunSource, again: EndsAgain, tally: CallTally = tallyOf(source, again)): CallList {
  const { length, skipped } = tally;
  const failures = [...tally.failures].sort((left, right) => begunMs(left) - begunMs(right));
  return { [Symbol.iterator]: () => told(source, again), length, skipped, failures };
}

function tallyOf(source: RunSource, again: EndsAgain): CallTally {
  const tally = new CallTally();
  for (const call of told(source, again)) tally.add(call);
  return tally;
}

function* told(source: RunSource, again: EndsAgain): Generator<CallSummary> {
  const teller = new CallTeller(source, again);
  const order = new InOrder();
  for (const event of source.events) {
    order.note(event);
    const call = teller.add(event);
    if (call) yield* order.add(call);
  }
  yield* order.rest();
}

/** Puts calls, which come as they end, into the order in which they began. */
class InOrder {
  /** When calls began that have not ended, the first first. */
  private readonly open = new Map<string, number>();
  private waiting: CallSummary[] = [];

  note(event: JournalEvent): void {
    if (event.type === 'resumed') this.open.clear();
    const isOfCall = event.type === 'sent' && (event.purpose === 'call' || event.purpose === 'undo');
    if (isOfCall && !this.open.has(event.step)) this.open.set(event.step, event.at);
  }

  /** A call that has ended, and all that nothing open began before. */
  *add(call: CallSummary): Generator<CallSummary> {
    this.open.delete(call.address);
    let at = this.waiting.length;
    while (at > 0 && begunMs(this.waiting[at - 1]!) > begunMs(call)) at--;
    this.waiting.splice(at, 0, call);
    const [oldest = Infinity] = this.open.values();
    let count = 0;
    while (count < this.waiting.length && begunMs(this.waiting[count]!) <= oldest) count++;
    yield* this.waiting.splice(0, count);
  }

  *rest(): Generator<CallSummary> {
    yield* this.waiting;
  }
}

function begunMs({ exchanges, endedMs, ms }: CallSummary): number {
  return exchanges[0]?.fromMs ?? endedMs - ms;
}
