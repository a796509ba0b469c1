import type { JournalEvent } from './events.ts';

/** The events of a run in their order. They are gone over as often as needed, and need not be held for it. */
export interface Journal extends Iterable<JournalEvent> {
  /** Each event with its place, by which it is found again. */
  placed(): Iterable<readonly [event: JournalEvent, place: number]>;
  /** The events from the last one on. */
  backwards(): Iterable<JournalEvent>;
  /** The event at a place. */
  at(place: number): JournalEvent;
  /** The last event; nothing of a run that has none. */
  last(): JournalEvent | undefined;
}

/** Events that are at hand. */
export function heldJournal(events: readonly JournalEvent[]): Journal {
  return {
    [Symbol.iterator]: () => events[Symbol.iterator](),
    *placed() {
      for (const [place, event] of events.entries()) yield [event, place];
    },
    backwards: () => [...events].reverse(),
    at: (place) => events[place]!,
    last: () => events.at(-1),
  };
}
