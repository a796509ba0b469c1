import type { EventOf, JournalEvent } from '../journal/events.ts';
import type { BodyRef } from '../journal/records.ts';
import type { Journal } from '../journal/journal.ts';
import { isNamed, isUndo, itemsOf } from '../journal/address.ts';

/** One request of a run with what came of it, gathered from the events. */
export type ExchangeRecord = Readonly<{
  sent: EventOf<'sent'>;
  answered: EventOf<'answered'> | undefined;
  broken: EventOf<'broken'> | undefined;
  ended: EventOf<'ended'> | undefined;
}>;

/** An exchange with the bodies of its record. */
export type ReadExchange = ExchangeRecord & Readonly<{ body(ref: BodyRef | undefined): Uint8Array | undefined }>;

/** The exchanges of a run in the order in which they were sent. */
export function exchangesOf(events: readonly JournalEvent[]): readonly ExchangeRecord[] {
  const found = new Map<
    number,
    { sent: EventOf<'sent'>; answered?: EventOf<'answered'>; broken?: EventOf<'broken'>; ended?: EventOf<'ended'> }
  >();
  for (const event of events) {
    if (event.type === 'sent') found.set(event.x, { sent: event });
    if (event.type === 'answered') found.get(event.x)!.answered = event;
    if (event.type === 'broken') found.get(event.x)!.broken = event;
    if (event.type === 'ended') for (const x of event.x ?? []) found.get(x)!.ended = event;
  }
  return [...found.values()].map(({ sent, answered, broken, ended }) => ({ sent, answered, broken, ended }));
}

/** The same from the last one on, without holding them: most who ask want one of the last. */
export function* exchangesBack(journal: Pick<Journal, 'backwards'>): Generator<ExchangeRecord> {
  const ends = new Map<number, Partial<Omit<ExchangeRecord, 'sent'>>>();
  for (const event of journal.backwards()) {
    if (event.type === 'ended') for (const x of event.x ?? []) ends.set(x, { ended: event, ...ends.get(x) });
    else if (event.type === 'answered') ends.set(event.x, { ...ends.get(event.x), answered: event });
    else if (event.type === 'broken') ends.set(event.x, { ...ends.get(event.x), broken: event });
    else if (event.type === 'sent') {
      const { answered, broken, ended } = ends.get(event.x) ?? {};
      ends.delete(event.x);
      yield { sent: event, answered, broken, ended };
    }
  }
}

/** The last exchange of a call by name, address or number, for an item (`5`, `5.2`) if one is said; the last of all without any. */
export function findExchange(
  exchangesBackwards: Iterable<ExchangeRecord>,
  wanted: string | undefined,
  item?: string,
): ExchangeRecord | undefined {
  for (const exchange of exchangesBackwards) {
    const { step } = exchange.sent;
    if (item !== undefined && itemsOf(step) !== item) continue;
    // By its name a call is asked for, and not what took back what it made.
    const isAsked = wanted === undefined || (isNamed(step, wanted) && (!isUndo(step) || /^u\d/.test(wanted)));
    if (isAsked) return exchange;
  }
  return undefined;
}

/** The last callback of a step, or of the address of a name, that one looks for in the same way. */
export function findCallback(
  journal: Pick<Journal, 'backwards'>,
  wanted: string | undefined,
  item?: string,
): EventOf<'called-back'> | undefined {
  for (const event of journal.backwards()) {
    if (event.type !== 'called-back' || (item !== undefined && itemsOf(event.step) !== item)) continue;
    if (wanted === undefined || event.name === wanted || isNamed(event.step, wanted)) return event;
  }
  return undefined;
}

/**
 * All exchanges of a call in a run: its tries, hops and pages, what its credential needed, and those of before it was
 * resumed, in order.
 */
export function triesOf({ sent }: ExchangeRecord, journal: Journal): readonly ExchangeRecord[] {
  const tries: ExchangeRecord[] = [];
  for (const exchange of exchangesBack(journal)) if (exchange.sent.key === sent.key) tries.unshift(exchange);
  return tries;
}

/** Milliseconds from sending to the last byte, or until it was known that there is no response. */
export function tookOf({ sent, answered, broken }: Partial<ExchangeRecord>): number | undefined {
  if (!answered) return sent && broken && Math.max(0, broken.at - sent.at);
  const { timings } = answered;
  return timings.blocked + timings.dns + timings.connect + timings.tls + timings.send + timings.wait + timings.receive;
}
