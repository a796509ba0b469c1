/** Slots for each key at least, so that a free one is found soon. */
const ROOM = 2;

/**
 * Numbers keys from 0 in the order in which they come, without holding them: of each only a hash is held, and its text is
 * asked for where two hashes are the same.
 */
export class KeyTable {
  private slots = new Int32Array(1024);
  private hashes = new Int32Array(this.slots.length / ROOM);
  size = 0;

  constructor(private readonly keyOf: (number: number) => string) {}

  /** The number of a key; -1 of one that has none. */
  find(key: string): number {
    return this.slots[this.slotOf(key, hashOf(key))]! - 1;
  }

  /** The number of a key, which it has or is given. */
  add(key: string): number {
    const hash = hashOf(key);
    const slot = this.slotOf(key, hash);
    const known = this.slots[slot]! - 1;
    if (known >= 0) return known;
    const number = this.size++;
    this.slots[slot] = number + 1;
    this.hashes[number] = hash;
    if (this.size === this.hashes.length) this.grow();
    return number;
  }

  /** The slot that a key has, or the free one that it would take. */
  private slotOf(key: string, hash: number): number {
    const last = this.slots.length - 1;
    let slot = hash & last;
    for (let number = this.slots[slot]!; number > 0; number = this.slots[slot]!) {
      if (this.hashes[number - 1] === hash && this.keyOf(number - 1) === key) break;
      slot = (slot + 1) & last;
    }
    return slot;
  }

  private grow(): void {
    const hashes = new Int32Array(this.hashes.length * 2);
    hashes.set(this.hashes);
    this.hashes = hashes;
    this.slots = new Int32Array(hashes.length * ROOM);
    const last = this.slots.length - 1;
    for (let number = 0; number < this.size; number++) {
      let slot = hashes[number]! & last;
      while (this.slots[slot] !== 0) slot = (slot + 1) & last;
      this.slots[slot] = number + 1;
    }
  }
}

/** FNV-1a over UTF-16 code units, mixed at the end so that its low bits differ too. */
function hashOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  return hash ^ (hash >>> 13);
}
