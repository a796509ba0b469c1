import type { Clock } from '../../ports.ts';

/** A file that is written whole is written at most so often, and seldom enough that this takes little of the time. */
const EVERY_MS = 1000;
const TIMES_ITS_DURATION = 20;

/** Writes a file whole when it was changed: not at each change, and at the end at the latest. */
export class Rewriting {
  private nextAt = -Infinity;
  private isChanged = false;

  constructor(
    private readonly clock: Clock,
    private readonly write: () => void,
  ) {}

  changed(): void {
    this.isChanged = true;
    if (this.clock.monotonicMs() >= this.nextAt) this.finish();
  }

  /** Writes what is not written yet. */
  finish(): void {
    if (!this.isChanged) return;
    this.isChanged = false;
    const before = this.clock.monotonicMs();
    this.write();
    const now = this.clock.monotonicMs();
    this.nextAt = now + Math.max(EVERY_MS, TIMES_ITS_DURATION * (now - before));
  }
}
