import { Loops, progressWords } from '../../src/cli/view/loops.ts';
import type { JournalEvent } from '../../src/core/journal/events.ts';

/** A loop of `total` items of one call each, at moments in milliseconds: when each was sent, if it was, and ended. */
function follow(total: number, items: readonly Readonly<{ sent?: number; ended: number; failed?: true }>[]): string {
  const loops = new Loops();
  const add = (event: object) => loops.add(event as JournalEvent);
  add({ type: 'opened', kind: 'each', step: '2/each', at: 0, total, steps: 1 });
  items.forEach(({ sent, ended, failed }, i) => {
    const step = `2#${i + 1}.1/ask`;
    if (sent !== undefined) add({ type: 'sent', step, at: sent });
    const outcome = failed ? 'failed' : sent === undefined ? 'reused' : 'held';
    add({ type: 'ended', kind: 'call', step, outcome, at: ended });
  });
  return progressWords(loops.outermost()!, items.at(-1)?.ended ?? 0);
}

const each = (count: number, from: number, every: number) =>
  Array.from({ length: count }, (_, i) => ({ sent: from + i * every, ended: from + (i + 1) * every }));
const reused = (count: number) => Array.from({ length: count }, () => ({ ended: 5 }));

test.each<[string, string]>([
  ['0 of 40,000', follow(40_000, [])],
  ['100 of 1,000, about 45 s left', follow(1000, each(100, 0, 50))],
  [
    '100 of 1,000, 1 failed, about 45 s left',
    follow(1000, [...each(99, 0, 50), { sent: 1, ended: 5000, failed: true }]),
  ],
  ['100 of 100', follow(100, each(100, 0, 100))],
  // What has just become ten times slower is reckoned as it is now.
  ['400 of 1,000, about 10 min left', follow(1000, [...each(300, 0, 100), ...each(100, 30_000, 1000)])],
  // Nothing is said of items whose responses were there already, nor reckoned from them.
  ['500 of 1,000', follow(1000, reused(500))],
  ['600 of 1,000, about 40 s left', follow(1000, [...reused(500), ...each(100, 5, 100)])],
])('%s', (expected, words) => expect(words).toBe(expected));
