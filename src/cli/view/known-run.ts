import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { NumberedPlaces } from '../../core/journal/numbered-places.ts';
import { History } from '../../core/report/history.ts';
import { Failures } from './failures.ts';
import { isFailure } from './step-ends.ts';

/** What is known of a run so far by its events: where values came from, and what failed. */
export class KnownRun {
  readonly history = new History();
  readonly failures = new Failures();
  run: EventOf<'run'> | undefined;
  /** Steps that failed before the run was resumed, and did not end anew. */
  private readonly failedBefore = new Set<string>();
  private readonly statuses = new NumberedPlaces();

  get notTriedAgain(): number {
    return this.failedBefore.size;
  }

  /** Takes in an event of before. */
  addBefore(event: JournalEvent): void {
    this.history.add(event);
    if (event.type === 'run') this.run = event;
    if (event.type === 'answered') this.statuses.set(event.x, event.status);
    if (event.type !== 'ended') return;
    this.endsAnew(event);
    if (!isFailure(event)) return;
    this.failures.add(event, this.statuses.get(event.x?.at(-1) ?? 0) ?? null, this.history);
    this.failedBefore.add(event.step);
  }

  /** What a step ended as before the run was resumed is over when it ends anew. */
  endsAnew({ step }: EventOf<'ended'>): void {
    if (this.failedBefore.delete(step)) this.failures.forget(step);
  }
}
