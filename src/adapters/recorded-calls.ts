import { CallRecords } from '../core/journal/call-records.ts';
import type { RecordedRun } from './journal-reader.ts';

/** What a run has recorded of its calls. Those that it took over from another run are read there, when they are asked for. */
export function recordedCalls(record: RecordedRun): CallRecords {
  const others = new Map<string, CallRecords | undefined>();
  const origin = (run: string): CallRecords | undefined => {
    if (!others.has(run)) {
      const other = record.other(run);
      others.set(run, other && new CallRecords(run, other.journal, other));
    }
    return others.get(run);
  };
  return new CallRecords(record.id, record.journal, record, origin);
}
