/** A list of numbers that grows, eight bytes each, or four where they are small and whole. */
export class Numbers<A extends Float64Array | Uint32Array | Int32Array> {
  constructor(private held: A) {}

  /** The same numbers in an array of another kind. */
  copiedInto<B extends Float64Array | Uint32Array | Int32Array>(make: (length: number) => B): Numbers<B> {
    const copy = make(this.held.length);
    copy.set(this.held);
    return new Numbers(copy);
  }

  get(index: number): number {
    return this.held[index] ?? 0;
  }

  set(index: number, value: number): void {
    if (index >= this.held.length) {
      const more = new (this.held.constructor as new (length: number) => A)(Math.max(index + 1, this.held.length * 2));
      more.set(this.held);
      this.held = more;
    }
    this.held[index] = value;
  }
}
