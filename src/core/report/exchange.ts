import type { EventOf, JournalEvent } from '../journal/events.ts';
import { itemsOf, stepName } from './history.ts';

/** One request of a run with what came of it, gathered from the events. */
export type ExchangeRecord = Readonly<{
  sent: EventOf<'sent'>;
  answered: EventOf<'answered'> | undefined;
  broken: EventOf<'broken'> | undefined;
  ended: EventOf<'ended'> | undefined;
}>;

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

/** The exchange of a call by name, address or number, for an item (`5`, `5.2`) if one is said; the last one of the run without any. */
export function findExchange(
  exchanges: readonly ExchangeRecord[],
  wanted: string | undefined,
  item?: string,
): ExchangeRecord | undefined {
  if (item !== undefined)
    return findExchange(
      exchanges.filter(({ sent }) => itemsOf(sent.step) === item),
      wanted,
    );
  if (wanted === undefined) return exchanges.at(-1);
  return exchanges.findLast(
    ({ sent }) => stepName(sent.step) === wanted || sent.step === wanted || sent.step.split('/')[0] === wanted,
  );
}

/** Milliseconds from sending to the last byte. */
export function tookOf({ answered }: Pick<ExchangeRecord, 'answered'>): number | undefined {
  if (!answered) return undefined;
  const { timings } = answered;
  return timings.blocked + timings.dns + timings.connect + timings.tls + timings.send + timings.wait + timings.receive;
}
