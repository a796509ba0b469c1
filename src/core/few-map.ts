/**
 * A map of few entries that come and go, in the order in which they came. A `Map` leaves old tables behind each time it has
 * to be put in order, and each of them keeps the next one alive, and what stood in it, until the whole heap is collected.
 */
export class FewMap<K, V> {
  private readonly keys: K[] = [];
  private readonly entries: V[] = [];

  get size(): number {
    return this.keys.length;
  }

  /** The key that came first of those that are there. */
  get oldest(): K | undefined {
    return this.keys[0];
  }

  get(key: K): V | undefined {
    const at = this.keys.indexOf(key);
    return at < 0 ? undefined : this.entries[at];
  }

  set(key: K, value: V): void {
    const at = this.keys.indexOf(key);
    if (at >= 0) this.entries[at] = value;
    else {
      this.keys.push(key);
      this.entries.push(value);
    }
  }

  delete(key: K): void {
    const at = this.keys.indexOf(key);
    if (at < 0) return;
    this.keys.splice(at, 1);
    this.entries.splice(at, 1);
  }

  values(): readonly V[] {
    return [...this.entries];
  }
}
