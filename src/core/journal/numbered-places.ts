import { Numbers } from './numbers.ts';

/** Places below this take four bytes. */
const SHORT = 2 ** 32;

/** How far a number may be beyond those before it to be held in the array; one in a damaged line may be any. */
const FURTHER = 1_000_000;

/** A number, such as a place, for each of what is numbered from 0: four bytes each, or eight where one is beyond 4 GiB. */
export class NumberedPlaces {
  /** Nothing is there where 0 is held. */
  private places: Numbers<Uint32Array | Float64Array> = new Numbers(new Uint32Array(64));
  private isShort = true;
  private readonly far = new Map<number, number>();
  private last = 0;

  set(number: number, place: number): void {
    if (!Number.isInteger(number) || number < 0 || number > this.last + FURTHER) {
      this.far.set(number, place);
      return;
    }
    this.last = Math.max(this.last, number);
    if (this.isShort && place + 1 >= SHORT) {
      this.isShort = false;
      this.places = this.places.copiedInto((length) => new Float64Array(length));
    }
    this.places.set(number, place + 1);
  }

  get(number: number): number | undefined {
    const place = this.places.get(number);
    return place === 0 ? this.far.get(number) : place - 1;
  }

  has(number: number): boolean {
    return this.get(number) !== undefined;
  }
}
