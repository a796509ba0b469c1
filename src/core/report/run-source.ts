import type { BodyRef } from '../journal/records.ts';
import type { JournalEvent } from '../journal/events.ts';
import type { Journal } from '../journal/journal.ts';
import { NumberedPlaces } from '../journal/numbered-places.ts';
import { exchangesOf, type ExchangeRecord } from './exchange.ts';

/** Where a run is told from: its events, and all of an exchange when it is asked for, once they were gone over. */
export type RunSource = Readonly<{
  id: string;
  events: Iterable<JournalEvent>;
  body(ref: BodyRef): Uint8Array | undefined;
  exchange(x: number): ExchangeRecord | undefined;
  /** Another run of the same project. */
  other?(run: string): RunSource | undefined;
}>;

/** A journal as a source: exchanges are read again where they stand. */
export function sourceOf({
  id,
  journal,
  body,
  other: recordOf,
}: Pick<RunSource, 'id' | 'body'> & RecordAround): RunSource {
  let sent = new NumberedPlaces();
  let ends = new NumberedPlaces();
  let isRead = false;
  function* events(): Generator<JournalEvent> {
    sent = new NumberedPlaces();
    ends = new NumberedPlaces();
    isRead = true;
    for (const [event, place] of journal.placed()) {
      if (event.type === 'sent') sent.set(event.x, place);
      if (event.type === 'answered' || event.type === 'broken') ends.set(event.x, place);
      yield event;
    }
  }
  const exchange = (x: number) => {
    if (!isRead) for (const _ of events());
    const places = [sent.get(x), ends.get(x)].filter((place) => place !== undefined);
    return exchangesOf(places.map((place) => journal.at(place)))[0];
  };
  const other = recordOf && sourcesBy(recordOf);
  return { id, events: { [Symbol.iterator]: events }, body, exchange, ...(other ? { other } : {}) };
}

/** Finds runs as sources, each of them read once. */
export function sourcesBy(recordOf: NonNullable<RecordAround['other']>): NonNullable<RunSource['other']> {
  const known = new Map<string, RunSource | undefined>();
  return (run) => {
    if (!known.has(run)) {
      const record = recordOf(run);
      known.set(run, record && sourceOf(record));
    }
    return known.get(run);
  };
}

/** A record with its journal, and how those of other runs are found. */
type RecordAround = Readonly<{
  journal: Journal;
  other?: ((run: string) => (Pick<RunSource, 'id' | 'body'> & RecordAround) | undefined) | undefined;
}>;
