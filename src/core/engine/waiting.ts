import type { WaitReason } from '../journal/records.ts';
import type { EventBody } from '../journal/events.ts';
import type { Recorder } from '../journal/recorder.ts';
import type { Clock } from '../ports.ts';

/** Waits that are recorded, in milliseconds. */
const SHORTEST_RECORDED = 50;

/** A wait under way; ended it says what the record tells of it, if it was long enough to be told. */
export type Wait = Readonly<{ end(): readonly EventBody[]; milliseconds(): number }>;

/**
 * What a run waits for. Time counts as waiting while nothing is in flight, for the reason that most wait for: however
 * much waits at the same moment, it is never more than has passed.
 */
export class Waits {
  private readonly open = new Map<WaitReason, number>();
  private readonly spent = new Map<WaitReason, number>();
  private inFlight = 0;
  private since: number;

  constructor(
    private readonly clock: Clock,
    private readonly recorder: Recorder,
  ) {
    this.since = clock.monotonicMs();
  }

  begin(why: WaitReason, step: string, about: Readonly<{ detail?: string; until?: number }> = {}): Wait {
    this.account();
    this.open.set(why, (this.open.get(why) ?? 0) + 1);
    this.recorder.tell({ type: 'waiting', step, why, ...about });
    const from = this.clock.monotonicMs();
    const milliseconds = () => this.clock.monotonicMs() - from;
    const { detail } = about;
    return {
      milliseconds,
      end: () => {
        this.account();
        const left = this.open.get(why)! - 1;
        if (left === 0) this.open.delete(why);
        else this.open.set(why, left);
        const ms = Math.round(milliseconds());
        this.recorder.tell({ type: 'waiting', step });
        return ms >= SHORTEST_RECORDED ? [{ type: 'waited', step, why, ms, ...(detail ? { detail } : {}) }] : [];
      },
    };
  }

  /** A request goes out; what it gives is to be called when it ends. */
  sending(): () => void {
    this.account();
    this.inFlight++;
    return () => {
      this.account();
      this.inFlight--;
    };
  }

  /** Milliseconds of waiting so far, by reason. */
  totals(): Partial<Record<WaitReason, number>> {
    this.account();
    return Object.fromEntries([...this.spent].map(([why, ms]) => [why, Math.round(ms)]));
  }

  private account(): void {
    const now = this.clock.monotonicMs();
    const [most] = this.inFlight > 0 ? [] : [...this.open].sort((left, right) => right[1] - left[1]);
    if (most) this.spent.set(most[0], (this.spent.get(most[0]) ?? 0) + now - this.since);
    this.since = now;
  }
}
