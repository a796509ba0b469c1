import type { Stored } from '../journal/records.ts';
import type { JournalEvent } from '../journal/events.ts';
import { fromStored } from '../journal/stored.ts';
import { Mask, type Value } from '../value/value.ts';
import { stepName } from '../journal/address.ts';

/** A name that a run bound, its value, and the call that kept it; an input has no call. */
export type BoundName = Readonly<{ name: string; stored: Stored; call: string | undefined }>;

/** The inputs and kept names of a run, as its record holds them. */
export function boundNames(events: readonly JournalEvent[]): readonly BoundName[] {
  return events.flatMap((event): readonly BoundName[] => {
    if (event.type === 'run')
      return Object.entries(event.inputs).map(([name, stored]) => ({ name, stored, call: undefined }));
    if (event.type !== 'ended') return [];
    const call = event.kind === 'call' ? stepName(event.step) : undefined;
    return (event.binds ?? []).map(({ name, value }) => ({ name, stored: value, call }));
  });
}

/** The value of a name as far as the record has it; a masked one is not there. */
export function valueOfBound({ stored }: BoundName): Value | undefined {
  const value = fromStored(stored);
  return value instanceof Mask ? undefined : value;
}
