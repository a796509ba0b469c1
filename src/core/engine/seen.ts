const FIELDS = 4;

/**
 * A number for each of many digests: 16 bytes for one, by its first 96 bits, which no two of a million items share by
 * chance. Open addressing, so that nothing is made for an entry but its place in one array.
 */
export class Seen {
  private slots = new Uint32Array(FIELDS * 1024);
  private count = 0;

  /** Sets the number of a digest from the one before, 0 for one that was not seen, which is given back. */
  swap(digest: Uint8Array, next: (before: number) => number): number {
    if (this.count * 2 * FIELDS > this.slots.length) this.grow();
    const at = this.place(word(digest, 0), word(digest, 4), word(digest, 8));
    const before = this.slots[at + 3]!;
    if (before === 0) this.count++;
    this.slots[at + 3] = next(before);
    return before;
  }

  /** Where a digest stands, or where it is put now. */
  private place(a: number, b: number, c: number): number {
    const { slots } = this;
    const mask = slots.length / FIELDS - 1;
    for (let slot = a & mask; ; slot = (slot + 1) & mask) {
      const at = slot * FIELDS;
      if (slots[at + 3] === 0) {
        slots[at] = a;
        slots[at + 1] = b;
        slots[at + 2] = c;
        return at;
      }
      if (slots[at] === a && slots[at + 1] === b && slots[at + 2] === c) return at;
    }
  }

  private grow(): void {
    const before = this.slots;
    this.slots = new Uint32Array(before.length * 2);
    for (let at = 0; at < before.length; at += FIELDS) {
      if (before[at + 3] === 0) continue;
      this.slots[this.place(before[at]!, before[at + 1]!, before[at + 2]!) + 3] = before[at + 3]!;
    }
  }
}

/** Four bytes as an unsigned number. */
function word(bytes: Uint8Array, at: number): number {
  return ((bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!) >>> 0;
}
