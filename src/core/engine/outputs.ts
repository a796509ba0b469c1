import type { EventBody } from '../journal/events.ts';
import { crypto } from '../packages.ts';
import type { Clock, RowsFile } from '../ports.ts';
import { writeJson } from '../value/json-write.ts';
import { textOf } from '../value/text.ts';
import { isObject, memberOf, type ObjectValue, type Value } from '../value/value.ts';
import { RejectsFile, type Reject } from './rejects.ts';
import { csvNames } from '../value/csv.ts';
import { csvText, keyText, RowFault, rowKindOf, rowsIn, tableText, type RowKind } from './row-texts.ts';

/** How a step writes to a file. */
export type WriteForm = Readonly<{
  updateBy: string | undefined;
  append: boolean;
  reveal: boolean;
  spreadsheet: boolean;
}>;

/** A file whose rows are updated is written at most so often, and when the run ends. */
const FLUSH_MS = 1000;

/** The files of rows that a run writes: one writer a file, whichever steps write to it. */
export class Outputs {
  private readonly files = new Map<string, TableFile>();
  private readonly rejects = new Map<string, RejectsFile>();

  constructor(
    private readonly clock: Clock,
    private readonly record: (event: EventBody) => void = () => {},
    /** What the run that is gone on with has recorded of a file. */
    private readonly recorded: (path: string) => RecordedFile | undefined = () => undefined,
  ) {}

  /** Writes rows. Throws `RowFault`. */
  write(file: RowsFile, step: string, form: WriteForm, rows: readonly ObjectValue[]): void {
    let table = this.files.get(file.path);
    if (!table) {
      this.begin(file, step, form);
      this.files.set(file.path, (table = new TableFile(file, step, form, this.clock)));
    }
    table.write(rows);
  }

  /** Notes that a file is written from now on; one that was changed since this very run wrote it is not touched. */
  private begin(file: RowsFile, step: string, form: WriteForm): void {
    const { path } = file;
    const now = file.size();
    const recorded = this.recorded(path);
    if (recorded?.after && now > 0 && !isSame(recorded.after, file)) {
      const message = `${path} was changed since this run wrote it, and is left as it is`;
      throw new RowFault('written-file-changed', message);
    }
    const op = opOf(form);
    // Rows that this very run has put there already are written again, and so are cut off first.
    if (op === 'appended' && recorded && recorded.sizeBefore < now) file.cut(recorded.sizeBefore);
    const size = op === 'appended' ? Math.min(recorded?.sizeBefore ?? now, now) : now;
    this.record({ type: 'file', step, path, op, before: { size }, after: { size } });
  }

  /** Puts a failed item of a loop into its file. */
  reject(file: RowsFile, step: string, reject: Reject): void {
    let rejects = this.rejects.get(file.path);
    if (!rejects) this.rejects.set(file.path, (rejects = new RejectsFile(file, step, this.clock)));
    rejects.add(reject);
  }

  /** Writes what is still waiting; tells of every file. */
  close(): readonly EventBody[] {
    const events = [...this.files.values(), ...this.rejects.values()].map((each) => each.close());
    this.files.clear();
    this.rejects.clear();
    return events;
  }
}

/** A file as it is: its size in bytes, and its digest where that is quickly had. */
type FileState = Readonly<{ size: number; sha256?: string }>;

/** What is recorded of a file that a run wrote: its size before, and how it was left unless that was not recorded. */
export type RecordedFile = Readonly<{ sizeBefore: number; after: FileState | undefined }>;

/** Bytes up to which a file is known by its digest too. */
const MAX_DIGESTED = 4 * 1024 * 1024;

function stateOf(file: RowsFile): FileState {
  const size = file.size();
  return size > MAX_DIGESTED ? { size } : { size, sha256: crypto().hash('sha256', file.read() ?? '') };
}

function isSame(recorded: FileState, file: RowsFile): boolean {
  if (recorded.size !== file.size()) return false;
  return recorded.sha256 === undefined || recorded.sha256 === stateOf(file).sha256;
}

function opOf({ updateBy, append }: WriteForm): 'updated' | 'appended' | 'replaced' {
  return updateBy !== undefined ? 'updated' : append ? 'appended' : 'replaced';
}

/** One file of rows. */
class TableFile {
  private readonly kind: RowKind;
  private columns: readonly string[] | undefined;
  private index: Map<string, ObjectValue> | undefined;
  private count = 0;
  private flushedAt = -Infinity;
  private isBegun = false;

  constructor(
    private readonly file: RowsFile,
    private readonly step: string,
    private readonly form: WriteForm,
    private readonly clock: Clock,
  ) {
    this.kind = rowKindOf(file.path);
  }

  write(rows: readonly ObjectValue[]): void {
    this.count += rows.length;
    if (this.form.updateBy !== undefined) this.update(rows, this.form.updateBy);
    else if (this.kind === 'json') this.file.replace(`${writeJson(rows, 2)}\n`, this.form.reveal);
    else this.appendRows(rows);
  }

  close(): EventBody {
    if (this.index) this.flush();
    const after = stateOf(this.file);
    return { type: 'file', step: this.step, path: this.file.path, op: opOf(this.form), after, rows: this.count };
  }

  /** The first rows of a run start the file afresh, unless what was there is to stay. */
  private appendRows(rows: readonly ObjectValue[]): void {
    if (this.kind === 'ndjson') {
      const text = rows.map((row) => `${writeJson(row)}\n`).join('');
      if (this.isBegun || this.form.append) this.file.append(text, this.form.reveal);
      else this.file.replace(text, this.form.reveal);
      this.isBegun = true;
      return;
    }
    const before = this.isBegun || !this.form.append ? undefined : this.file.read();
    if (before !== undefined && before !== '') this.columns = csvNames(before);
    const isFresh = !this.isBegun && (before === undefined || before === '');
    const [first] = rows;
    this.columns ??= first && Object.keys(first);
    const text = rows.map((row) => this.csvLine(row)).join('');
    if (isFresh) this.file.replace(csvText([this.columns ?? []]) + text, this.form.reveal);
    else this.file.append(text, this.form.reveal);
    this.isBegun = true;
  }

  private csvLine(row: ObjectValue): string {
    const columns = this.columns!;
    const stranger = Object.keys(row).find((name) => !columns.includes(name));
    if (stranger !== undefined)
      throw new RowFault(
        'no-such-column',
        `${this.file.path} has no column "${stranger}"; it has ${columns.join(', ')}`,
      );
    return csvText([columns.map((name) => this.cell(name, memberOf(row, name) ?? null))]);
  }

  private cell(name: string, value: Value): string {
    if (value === null) return '';
    const text = textOf(value);
    if (typeof text !== 'string')
      throw new RowFault('bad-value', `The cell ${name} is ${text.what}, which has no form in CSV`);
    return this.form.spreadsheet && /^[=+\-@]/.test(text) ? `'${text}` : text;
  }

  /** Read once into an index, updated in memory, written now and then and at the end. */
  private update(rows: readonly ObjectValue[], column: string): void {
    this.index ??= this.readIndex(column);
    for (const row of rows) {
      const key = memberOf(row, column);
      if (key === undefined) throw new RowFault('no-such-column', `The row has no column "${column}" to update by`);
      const text = keyText(key);
      const before = this.index.get(text);
      if (this.kind === 'csv') {
        this.columns ??= Object.keys(row);
        const stranger = Object.keys(row).find((name) => !this.columns!.includes(name));
        // A table that was read may get further columns when rows of it are enriched.
        if (stranger !== undefined)
          this.columns = [...this.columns, ...Object.keys(row).filter((name) => !this.columns!.includes(name))];
      }
      this.index.set(text, before ? { ...before, ...row } : row);
    }
    if (this.clock.monotonicMs() - this.flushedAt >= FLUSH_MS) this.flush();
  }

  private readIndex(column: string): Map<string, ObjectValue> {
    const before = this.file.read() ?? '';
    const rows: readonly Value[] = before.trim() === '' ? [] : rowsIn(before, this.kind);
    if (this.kind === 'csv' && before.trim() !== '') this.columns = csvNames(before);
    return new Map(
      rows.filter(isObject).map((row, i): [string, ObjectValue] => {
        const key = memberOf(row, column);
        return [key === undefined ? `\0${i}` : keyText(key), row];
      }),
    );
  }

  private flush(): void {
    const rows = [...this.index!.values()];
    this.flushedAt = this.clock.monotonicMs();
    const text = tableText(this.kind, this.columns ?? [], rows, (row) => this.csvLine(row));
    this.file.replace(text, this.form.reveal);
  }
}
