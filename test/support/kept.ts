import { CallRecords, type Beside } from '../../src/core/journal/call-records.ts';
import type { Recorded } from '../../src/core/engine/recorded.ts';
import type { JournalEvent } from '../../src/core/journal/events.ts';
import { heldJournal } from '../../src/core/journal/journal.ts';

/** What a run that ended left for another to go on from, with the same files. */
export function keptOf(events: readonly JournalEvent[], mode: Recorded['mode']): Recorded {
  const beside: Beside = {
    body: (ref) => ('text' in ref ? new TextEncoder().encode(ref.text) : undefined),
    list: () => undefined,
  };
  const records = new CallRecords('test', heldJournal(events), beside);
  return { mode, records, isSameRun: mode === 'go-on', isUnchanged: true, failed: true };
}
