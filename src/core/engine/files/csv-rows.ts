import {
  CsvFault,
  csvLayoutOf,
  csvNames,
  csvText,
  neutral,
  onceEach,
  PLAIN_CSV,
  readCsv,
  type CsvLayout,
} from '../../value/csv.ts';
import { textOf } from '../../value/text.ts';
import { memberOf, type ObjectValue, type Value } from '../../value/value.ts';
import { RowFault } from './row-fault.ts';
import type { RowsForm, RowsFormOptions } from './rows-form.ts';

/** CSV with a header row; a file that is there already keeps its separator and its line breaks. */
export class CsvRows implements RowsForm {
  readonly grows = true;
  private columns: Set<string> | undefined;
  private layout: CsvLayout;

  constructor(
    private readonly path: string,
    private readonly options: RowsFormOptions,
  ) {
    const { separator = /\.tsv$/i.test(path) ? '\t' : PLAIN_CSV.separator } = options;
    this.layout = { ...PLAIN_CSV, separator };
  }

  read(text: string, names: readonly string[]): readonly ObjectValue[] {
    return this.reading(() => {
      this.learn(text, names);
      return readCsv(text, this.layout);
    });
  }

  learn(start: string, names: readonly string[]): string {
    return this.reading(() => {
      this.layout = csvLayoutOf(start, names);
      this.columns = new Set(onceEach(csvNames(start, this.layout)));
      return this.layout.lineEnd;
    });
  }

  whole(rows: readonly ObjectValue[]): string {
    if (!this.options.mayWiden) this.columns = undefined;
    const lines = this.lines(rows);
    return this.columns ? csvText([[...this.columns]], this.layout) + lines : '';
  }

  more(rows: readonly ObjectValue[]): string {
    return this.columns ? this.lines(rows) : this.whole(rows);
  }

  private lines(rows: readonly ObjectValue[]): string {
    for (const row of rows) this.accept(row);
    const columns = [...(this.columns ?? [])];
    const cells = rows.map((row) => columns.map((name) => this.cell(name, memberOf(row, name) ?? null)));
    return csvText(cells, this.layout);
  }

  /** A row has the columns of the file, and no others unless it may bring them. */
  private accept(row: ObjectValue): void {
    const columns = (this.columns ??= new Set(Object.keys(row)));
    for (const name of Object.keys(row)) {
      if (columns.has(name)) continue;
      if (!this.options.mayWiden)
        throw new RowFault(
          'no-such-column',
          `${this.path} has no column "${name}"; its columns are ${[...columns].join(', ')}`,
        );
      columns.add(name);
    }
  }

  private cell(name: string, value: Value): string {
    if (value === null) return '';
    const text = textOf(value);
    if (typeof text !== 'string')
      throw new RowFault('invalid-value', `The cell ${name} is ${text.what}, which CSV cannot represent`);
    return this.options.spreadsheet && typeof value === 'string' ? neutral(text) : text;
  }

  private reading<T>(read: () => T): T {
    try {
      return read();
    } catch (error) {
      if (!(error instanceof CsvFault)) throw error;
      throw new RowFault('not-decodable', `${this.path} cannot be read as CSV and was not changed: ${error.message}`);
    }
  }
}
