import type { Clock, RowsFile } from '../../ports.ts';
import { writeJson } from '../../value/json-write.ts';
import { textOf } from '../../value/text.ts';
import { memberOf, type ObjectValue, type Value } from '../../value/value.ts';
import { Rewriting } from './rewriting.ts';
import { RowFault } from './row-fault.ts';
import type { RowsForm } from './rows-form.ts';
import type { TextFile } from './text-file.ts';

/** Rows of a file that is held to be updated. */
const MAX_ROWS = 1_000_000;

/**
 * Rows that update those of a file whose value in one column is equal; others are put behind. The file is held, and written
 * whole now and then. Rows that another process has written meanwhile stay: ours are then put into the file as it is.
 */
export class UpdatedRows {
  private rows: ObjectValue[] = [];
  /** Where the rows of a key stand: most have one place. */
  private places = new Map<string, number | number[]>();
  private readonly changes = new Map<string, ObjectValue>();
  private stamp: string | undefined;
  private readonly rewriting: Rewriting;

  constructor(
    private readonly file: RowsFile,
    private readonly text: TextFile,
    private readonly form: RowsForm,
    private readonly column: string,
    clock: Clock,
  ) {
    this.rewriting = new Rewriting(clock, () => this.rewrite());
  }

  write(rows: readonly ObjectValue[]): void {
    if (this.stamp === undefined) this.load(Object.keys(rows[0] ?? {}));
    for (const row of rows) {
      const key = memberOf(row, this.column);
      if (key === undefined)
        throw new RowFault('no-such-column', `The row has no column "${this.column}" to update by`);
      const text = keyText(key);
      this.changes.set(text, { ...this.changes.get(text), ...row });
      this.apply(text, row);
    }
    this.rewriting.changed();
  }

  finish(): void {
    this.rewriting.finish();
  }

  private load(names: readonly string[]): void {
    this.stamp = this.file.stamp();
    const text = this.text.read();
    this.rows = [];
    this.places = new Map();
    for (const row of text.trim() === '' ? [] : this.form.read(text, names)) {
      const key = memberOf(row, this.column);
      if (key === undefined) this.add(row);
      else this.put(keyText(key), row);
    }
  }

  private apply(key: string, row: ObjectValue): void {
    const places = this.places.get(key);
    if (places === undefined) return this.put(key, row);
    for (const place of typeof places === 'number' ? [places] : places)
      this.rows[place] = { ...this.rows[place], ...row };
  }

  /** Puts a row behind the others. */
  private put(key: string, row: ObjectValue): void {
    const before = this.places.get(key);
    const place = this.rows.length;
    this.places.set(key, before === undefined ? place : [...(typeof before === 'number' ? [before] : before), place]);
    this.add(row);
  }

  private add(row: ObjectValue): void {
    this.rows.push(row);
    if (this.rows.length > MAX_ROWS)
      throw new RowFault('over-limit', `${this.file.path} has more than 1,000,000 rows, too many to update`);
  }

  private rewrite(): void {
    this.file.withLock(() => {
      if (this.file.stamp() !== this.stamp) {
        this.load(Object.keys(this.changes.values().next().value ?? {}));
        for (const [key, row] of this.changes) this.apply(key, row);
      }
      this.text.replace(this.form.whole(this.rows));
      this.stamp = this.file.stamp();
    });
  }
}

/** A key by which rows are found again, as a text. */
function keyText(key: Value): string {
  const text = textOf(key);
  return typeof text === 'string' ? text : writeJson(key);
}
