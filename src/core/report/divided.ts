import type { JournalEvent } from '../journal/events.ts';
import type { BodyRef } from '../journal/records.ts';
import { Division } from './division.ts';
import type { ExchangeRecord } from './exchange.ts';
import type { RunSource } from './run-source.ts';

/**
 * The slices of a divided run as one run: each item as the slice that did it tells it, what stands outside of the loops once,
 * loops and totals together. Exchanges have numbers of their own. Throws `DivisionFault` where an item was done in two slices.
 */
export function dividedSource(slices: readonly RunSource[]): RunSource {
  const bodies = new WeakMap<object, RunSource>();
  const division = new Division(slices);
  const numbers = new Numbers(slices.length);
  const known = <T extends Pick<ExchangeRecord, 'sent' | 'answered'>>(exchange: T, source: RunSource): T => {
    for (const ref of [exchange.sent.request.body, exchange.answered?.body]) if (ref) bodies.set(ref, source);
    return exchange;
  };
  function* events(): Generator<JournalEvent> {
    let seq = 0;
    for (const event of mapped(division, numbers, (ref, source) => bodies.set(ref, source)))
      yield { ...event, seq: ++seq };
  }
  return {
    id: slices[0]!.id,
    events: { [Symbol.iterator]: events },
    body: (ref) => bodies.get(ref)?.body(ref),
    exchange: (x) => {
      const source = slices[numbers.sliceOf(x)]!;
      const found = source.exchange(numbers.ownOf(x));
      return found && known(found, source);
    },
    ...(slices[0]!.other ? { other: slices[0]!.other } : {}),
  };
}

/** Numbers of exchanges: those of so many slices in turns. */
class Numbers {
  constructor(private readonly slices: number) {}

  of(slice: number, x: number): number {
    return (x - 1) * this.slices + slice + 1;
  }

  sliceOf(x: number): number {
    return (x - 1) % this.slices;
  }

  ownOf(x: number): number {
    return Math.floor((x - 1) / this.slices) + 1;
  }
}

function* mapped(
  division: Division,
  numbers: Numbers,
  note: (ref: BodyRef, source: RunSource) => void,
): Generator<JournalEvent> {
  for (const [slice, source] of division.slices.entries()) {
    const dropped = new Set<number>();
    for (const event of source.events) {
      if ('x' in event && typeof event.x === 'number' && dropped.has(event.x)) continue;
      if (!division.isTold(event, slice)) {
        if (event.type === 'sent') dropped.add(event.x);
        continue;
      }
      const body = event.type === 'sent' ? event.request.body : event.type === 'answered' ? event.body : undefined;
      if (body) note(body, source);
      yield renumbered(event, (x) => numbers.of(slice, x));
    }
  }
  yield* division.loops();
  yield division.end();
}

function renumbered(event: JournalEvent, number: (x: number) => number): JournalEvent {
  if (event.type === 'ended') return event.x ? { ...event, x: event.x.map(number) } : event;
  return 'x' in event && typeof event.x === 'number' ? ({ ...event, x: number(event.x) } as JournalEvent) : event;
}
