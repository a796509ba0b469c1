import { Numbers } from './numbers.ts';

/** How far a number may be beyond those before it to be held in the array; one in a damaged line may be any. */
const FURTHER = 1_000_000;

/** A number, such as a place, for each of what is numbered from 0: eight bytes each. */
export class NumberedPlaces {
  /** Nothing is there where 0 is held. */
  private readonly places = new Numbers(new Float64Array(64));
  private readonly far = new Map<number, number>();
  private last = 0;

  set(number: number, place: number): void {
    if (!Number.isInteger(number) || number < 0 || number > this.last + FURTHER) {
      this.far.set(number, place);
      return;
    }
    this.last = Math.max(this.last, number);
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
