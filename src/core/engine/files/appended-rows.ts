import type { ObjectValue } from '../../value/value.ts';
import type { RowsForm } from './rows-form.ts';
import type { TextFile } from './text-file.ts';

/** Rows that are put behind one another in the order in which they come. */
export class AppendedRows {
  private isBegun = false;

  constructor(
    private readonly file: TextFile,
    private readonly form: RowsForm,
    /** Whether what was in the file before the run stays. */
    private readonly keeps: boolean,
  ) {}

  write(rows: readonly ObjectValue[]): void {
    const isFirst = !this.isBegun;
    const start = isFirst && this.keeps ? this.file.readStart() : '';
    if (start !== '') {
      // A row does not go on behind a last line that has no end.
      const lineEnd = this.form.learn(start, Object.keys(rows[0] ?? {}));
      this.file.append((this.file.isTorn() ? lineEnd : '') + this.form.more(rows));
    } else if (isFirst || !this.form.grows) this.file.replace(this.form.whole(rows));
    else this.file.append(this.form.more(rows));
    this.isBegun = true;
  }

  finish(): void {}
}
