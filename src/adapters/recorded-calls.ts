import { CallRecords } from '../core/journal/call-records.ts';
import type { JournalEvent } from '../core/journal/events.ts';
import type { RecordedRun } from './journal-reader.ts';

/**
 * What a run has recorded of its calls. Those that it took over from another run are read there, when they are asked for.
 * The listener is given each event of the run as it is read.
 */
export function recordedCalls(record: RecordedRun, listener?: (event: JournalEvent) => void): CallRecords {
  const others = new Map<string, CallRecords | undefined>();
  const origin = (run: string): CallRecords | undefined => {
    if (!others.has(run)) {
      const other = record.other(run);
      others.set(run, other && new CallRecords(run, other.journal, other));
    }
    return others.get(run);
  };
  return new CallRecords(record.id, record.journal, record, origin, listener);
}
