import type { EventBody, JournalEvent } from '../core/journal/events.ts';
import { noStore } from '../core/journal/no-store.ts';
import type { JournalStore } from '../core/ports.ts';
import { present } from '../core/value/present.ts';

/** What is recorded before there is a run stays in its events. */
export const heldStore = (): JournalStore => ({
  ...noStore(),
  storeBody: (content, type) => ({
    size: content.length,
    ...present({ type }),
    ...(typeof content === 'string' ? { text: content } : { dropped: 'polled' as const }),
  }),
});

/** An event that was held, with its body where bodies of that size belong. */
export function withBody({ seq: _seq, ...event }: JournalEvent, store: JournalStore): EventBody & { at: number } {
  if (event.type !== 'answered' || !event.body || !('text' in event.body)) return event;
  return {
    ...event,
    body: { ...store.storeBody(event.body.text, event.body.type), ...(event.body.masked ? { masked: true } : {}) },
  };
}
