import type { LinesFile } from '../ports.ts';
import { ListBuilder } from '../value/spilled-list.ts';
import type { Items, Value } from '../value/value.ts';

/** What is gathered of items that end in any order, put into the order in which they were begun. */
export class Gathered {
  private readonly builder: ListBuilder;
  private readonly early = new Map<number, Value | undefined>();
  private next = 0;

  constructor(lines: (() => LinesFile) | undefined) {
    this.builder = new ListBuilder(lines);
  }

  /** What came of the item that was begun as number `order`, from 0: nothing of one that failed. */
  put(order: number, value: Value | undefined): void {
    if (order !== this.next) return void this.early.set(order, value);
    this.add(value);
    while (this.early.has(this.next)) {
      const first = this.early.get(this.next);
      this.early.delete(this.next);
      this.add(first);
    }
  }

  private add(value: Value | undefined): void {
    this.next++;
    if (value !== undefined) this.builder.add(value);
  }

  finish(): Items {
    return this.builder.finish();
  }
}
