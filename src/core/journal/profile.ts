import { isDone } from './call-end.ts';
import type { EventOf, JournalEvent } from './events.ts';

/** What a run says of the cost of another: of steps that were sent by their keys, whatever the items of loops were. */
export class RunProfile {
  private readonly calls = new Map<string, { count: number; requests: number; ms: number }>();
  private readonly totals = new Map<string, { count: number; sum: number }>();

  constructor(events: readonly JournalEvent[]) {
    for (const event of events) {
      if (event.type === 'opened') this.opened(event);
      else if (event.type === 'ended' && event.kind === 'call' && isDone(event) && event.x?.length) this.ended(event);
    }
  }

  private opened({ kind, key, total }: EventOf<'opened'>): void {
    if (kind === 'each' && total !== undefined) this.add(plainKey(key), total);
    // Rounds are counted at the step that they belong to.
    if (kind === 'round') this.add(plainKey(key).replace(/\/$/, ''), 1, false);
  }

  private add(key: string, size: number, isOne = true): void {
    const before = this.totals.get(key) ?? { count: isOne ? 0 : 1, sum: 0 };
    this.totals.set(key, { count: before.count + (isOne ? 1 : 0), sum: before.sum + size });
  }

  private ended({ key, x = [], ms, waitedMs = 0 }: EventOf<'ended'>): void {
    const plain = plainKey(key);
    const before = this.calls.get(plain) ?? { count: 0, requests: 0, ms: 0 };
    const requests = before.requests + x.length;
    this.calls.set(plain, { count: before.count + 1, requests, ms: before.ms + ms - waitedMs });
  }

  /** Requests and milliseconds of one call, on the average. */
  call(key: string): Readonly<{ requests: number; ms: number }> | undefined {
    const found = this.calls.get(plainKey(key));
    return found && { requests: found.requests / found.count, ms: found.ms / found.count };
  }

  /** Items of a loop, or rounds, on the average. */
  size(key: string): number | undefined {
    const found = this.totals.get(plainKey(key));
    return found && Math.round(found.sum / found.count);
  }
}

/** A key without what items are known by. */
function plainKey(key: string): string {
  return key.replace(/\{.*?\}(?=\/|$)/g, '');
}
