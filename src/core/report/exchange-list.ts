import type { JournalEvent } from '../journal/events.ts';
import type { BodyRef } from '../journal/records.ts';
import type { ReadExchange } from './exchange.ts';
import type { RunSource } from './run-source.ts';

/** Every exchange of a run in the order in which they were sent: told anew from the journal each time, so that few are held. */
export function exchangeList(source: RunSource): Iterable<ReadExchange> {
  return { [Symbol.iterator]: () => told(source) };
}

type Open = { -readonly [K in keyof ReadExchange]: ReadExchange[K] };

function* told(source: RunSource): Generator<ReadExchange> {
  const body = (ref: BodyRef | undefined) => ref && source.body(ref);
  const open = new Map<number, Open>();
  for (const event of source.events) {
    note(event, open, body);
    for (const [x, exchange] of open) {
      // What was sent before the run went on is not answered any more.
      if (event.type !== 'resumed' && !exchange.answered && !exchange.broken) break;
      open.delete(x);
      yield exchange;
    }
  }
  yield* open.values();
}

function note(event: JournalEvent, open: Map<number, Open>, body: Open['body']): void {
  if (event.type === 'sent')
    open.set(event.x, { sent: event, answered: undefined, broken: undefined, ended: undefined, body });
  const exchange = event.type === 'answered' || event.type === 'broken' ? open.get(event.x) : undefined;
  if (exchange && event.type === 'answered') exchange.answered = event;
  if (exchange && event.type === 'broken') exchange.broken = event;
}
