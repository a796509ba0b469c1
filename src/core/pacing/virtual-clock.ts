import { onAbort } from '../abort.ts';
import type { Clock } from '../ports.ts';

type Sleeper = Readonly<{ at: number; order: number; wake(): void }>;

/** A clock that stands until all who use it sleep, and then moves to the first who wakes: days pass in no time. */
export class VirtualClock implements Clock {
  private now = 0;
  private order = 0;
  private readonly sleepers: Sleeper[] = [];

  /** `idle` resolves when everything that can go on without time passing has done so. */
  constructor(
    private readonly startMs: number,
    private readonly idle: () => Promise<void>,
  ) {}

  nowMs(): number {
    return this.startMs + this.now;
  }

  monotonicMs(): number {
    return this.now;
  }

  sleep(milliseconds: number, signal: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
      if (signal.aborted) return resolve();
      const sleepOn = onAbort(signal, resolve);
      const wake = () => {
        sleepOn();
        resolve();
      };
      this.push({ at: this.now + milliseconds, order: this.order++, wake });
    });
  }

  /** Moves time on until the work is done. */
  async run<T>(work: Promise<T>): Promise<T> {
    let isDone = false;
    const ends = work.finally(() => (isDone = true));
    ends.catch(() => {});
    for (;;) {
      await this.idle();
      if (isDone) return ends;
      const next = this.pop();
      if (!next) throw new Error('Everything waits, and nothing is waited for');
      this.now = Math.max(this.now, next.at);
      next.wake();
    }
  }

  /** A heap: the first who wakes stands in front. */
  private push(sleeper: Sleeper): void {
    const { sleepers } = this;
    let at = sleepers.push(sleeper) - 1;
    while (at > 0) {
      const above = (at - 1) >> 1;
      if (!isBefore(sleepers[at]!, sleepers[above]!)) break;
      [sleepers[at], sleepers[above]] = [sleepers[above]!, sleepers[at]!];
      at = above;
    }
  }

  private pop(): Sleeper | undefined {
    const { sleepers } = this;
    const first = sleepers[0];
    const last = sleepers.pop();
    if (!first || !last || first === last) return first;
    sleepers[0] = last;
    for (let at = 0; ;) {
      let least = at;
      for (const below of [2 * at + 1, 2 * at + 2]) {
        if (below < sleepers.length && isBefore(sleepers[below]!, sleepers[least]!)) least = below;
      }
      if (least === at) return first;
      [sleepers[at], sleepers[least]] = [sleepers[least]!, sleepers[at]!];
      at = least;
    }
  }
}

function isBefore(left: Sleeper, right: Sleeper): boolean {
  return left.at < right.at || (left.at === right.at && left.order < right.order);
}
