import type { ProblemRecord } from '../../journal/records.ts';
import type { EachStep } from '../../chain/model.ts';
import { counted, grouped } from '../../value/show.ts';
import { added, NO_TOTALS, type StepsOutcome, type Totals } from '../outcome.ts';
import { problemAt } from '../places.ts';

/** How the items of a loop ended so far, and whether it is to stop for it. */
export class LoopTally {
  readonly failures: number[] = [];
  totals: Totals = NO_TOTALS;
  done = 0;
  isStopped = false;
  stopReason: ProblemRecord | undefined;
  stopsChain = false;
  /** Items were left out, or not done to their ends. */
  isCutShort = false;
  private inARow = 0;

  constructor(private readonly step: EachStep) {}

  /** Counts an item that ended, and stops the loop where it has to be. `refused`: its credentials are no longer accepted. */
  add(index: number, outcome: StepsOutcome, refused: () => boolean): void {
    const { exit, halted, stops, reached } = outcome;
    this.totals = added(this.totals, halted ? { ...outcome, exit: 0 } : outcome);
    if (halted) this.isCutShort = true;
    // It was stopped, and has not failed.
    else if (exit === 130) this.isStopped = true;
    else if (exit !== 0) this.failed(index, exit, refused);
    else {
      this.done++;
      this.inARow = 0;
      // A `stop` that passed ends the chain all the same.
      if (stops && !reached) this.stopsChain = this.isStopped = true;
    }
  }

  private failed(index: number, exit: number, refused: () => boolean): void {
    const { onFailure, maxConsecutiveFailures = Infinity, list } = this.step;
    this.failures.push(index);
    this.inARow++;
    if (onFailure === 'stop' || exit !== 1) this.isStopped = true;
    if (this.isStopped) return;
    if (refused()) {
      const message = 'The loop was stopped: its credentials are refused, and would be for each further item';
      this.stop(problemAt(list.source, 'not-authorized', message));
    } else if (this.inARow >= maxConsecutiveFailures) {
      const message = `The loop was stopped: ${counted(maxConsecutiveFailures, 'item')} failed in a row`;
      const advice = 'Find out why the first of them failed; max-consecutive-failures sets the limit.';
      this.stop(problemAt(list.source, 'too-many-failures', message, advice));
    }
  }

  private stop(reason: ProblemRecord): void {
    this.isStopped = true;
    this.stopReason = reason;
  }

  /** `3 of 10 items, 1 failed`. */
  words(all: number): string {
    const { done, failures } = this;
    const ran = done + failures.length;
    const items = ran < all ? `${grouped(ran)} of ${counted(all, 'item')}` : counted(all, 'item');
    return failures.length > 0 ? `${items}, ${grouped(failures.length)} failed` : items;
  }
}
