import type { CallEnd } from './call-end.ts';
import { KeyTable } from './key-table.ts';
import { withoutItems } from './keys.ts';
import { NumberedPlaces } from './numbered-places.ts';
import { Numbers } from './numbers.ts';

/** Equal values, each held once and known by a number from 1 on. */
class Alike<T> {
  private readonly numbers = new Map<string, number>();
  private readonly values: T[] = [];

  numberOf(text: string, value: T): number {
    let number = this.numbers.get(text);
    if (number === undefined) this.numbers.set(text, (number = this.values.push(value)));
    return number;
  }

  get(number: number): T | undefined {
    return this.values[number - 1];
  }
}

/**
 * Where the events of calls stand, by a number for each key: some fifty bytes a call, so that a record of millions of them
 * can be gone on with. `keyAt` reads the key of the event at a place.
 */
export class CallPlaces {
  private readonly keys: KeyTable;
  private readonly firsts = new NumberedPlaces();
  private readonly lasts = new NumberedPlaces();
  private readonly endings = new NumberedPlaces();
  private readonly ends = new Alike<CallEnd>();
  private readonly endOf = new Numbers(new Int32Array(64));
  private readonly plainKeys = new Alike<string>();
  private readonly plainKeyOf = new Numbers(new Int32Array(64));

  constructor(private readonly keyAt: (place: number) => string) {
    this.keys = new KeyTable((number) => this.keyOf(number));
  }

  get size(): number {
    return this.keys.size;
  }

  /** The number of a key; -1 of one that has none. */
  find(key: string): number {
    return this.keys.find(key);
  }

  /** A request was sent for a key; gives the key's number. */
  sent(key: string, place: number, isFirst: boolean): number {
    const number = this.add(key);
    if (isFirst) this.firsts.set(number, place);
    // Of most calls one request is known, which is told once.
    if (!isFirst || this.lasts.has(number)) this.lasts.set(number, place);
    return number;
  }

  /** A call ended; its number is known where a request of it was open. */
  ended(key: string, place: number, end: CallEnd, known: number | undefined): void {
    const number = known ?? this.add(key);
    this.endings.set(number, place);
    this.endOf.set(number, this.ends.numberOf(Object.values(end).join(' '), end));
  }

  private add(key: string): number {
    const before = this.size;
    const number = this.keys.add(key);
    if (number === before) {
      const plain = withoutItems(key);
      this.plainKeyOf.set(number, this.plainKeys.numberOf(plain, plain));
    }
    return number;
  }

  /** The place of what was first sent, since nothing of it was open. */
  first(number: number): number | undefined {
    return this.firsts.get(number);
  }

  last(number: number): number | undefined {
    return this.lasts.get(number) ?? this.first(number);
  }

  ending(number: number): number | undefined {
    return this.endings.get(number);
  }

  /** How it last ended. */
  end(number: number): CallEnd | undefined {
    return this.ends.get(this.endOf.get(number));
  }

  keyOf(number: number): string {
    return this.keyAt((this.ending(number) ?? this.last(number))!);
  }

  /** The key without the items and rounds in it. */
  plainKey(number: number): string {
    return this.plainKeys.get(this.plainKeyOf.get(number))!;
  }
}
