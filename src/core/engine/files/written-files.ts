import type { EventBody } from '../../journal/events.ts';
import { crypto } from '../../packages.ts';
import type { Clock, RowsFile } from '../../ports.ts';
import type { ObjectValue } from '../../value/value.ts';
import { AppendedRows } from './appended-rows.ts';
import { RejectedItems, type Reject, type RejectedTable } from './rejects.ts';
import { RowFault } from './row-fault.ts';
import { rowsFormOf } from './list.ts';
import { TextRows } from './text-rows.ts';
import { TextFile } from './text-file.ts';
import { UpdatedRows } from './updated-rows.ts';

/** How a step writes to a file. */
type WriteForm = Readonly<{
  updateBy: string | undefined;
  append: boolean;
  reveal: boolean;
  spreadsheet: boolean;
  /** Whether what is written are texts, and no rows of a format. */
  isText?: boolean;
  /** Whether the name was chosen by a placeholder, and no file that is there may be replaced. */
  isChosen?: boolean;
}>;

/** A file that rows go to, and how many have gone there. */
type Output = {
  readonly step: string;
  readonly op: FileOp;
  readonly file: RowsFile;
  form: WriteForm;
  writer: Writer;
  count: number;
};
type Writer = Readonly<{ write(rows: readonly ObjectValue[]): void; finish(): void }>;
type FileOp = 'wrote' | 'updated' | 'appended' | 'replaced';

/** The files of rows that a run writes: one writer a file, whichever steps write to it. */
export class WrittenFiles {
  private readonly files = new Map<string, Output>();
  private readonly rejected = new Map<
    string,
    Readonly<{ step: string; file: RowsFile; items: RejectedItems; isNew: boolean }>
  >();

  constructor(
    private readonly clock: Clock,
    private readonly record: (event: EventBody) => void = () => {},
    /** What the run that is gone on with has recorded of a file. */
    private readonly recorded: (path: string) => RecordedFile | undefined = () => undefined,
  ) {}

  /** Writes rows; `charset` is that of a file there is already and that is no UTF-8. Throws `RowFault`. */
  write(
    file: RowsFile,
    step: string,
    form: WriteForm,
    charset: string | undefined,
    rows: readonly ObjectValue[],
  ): void {
    let output = this.files.get(file.path);
    if (!output) this.files.set(file.path, (output = this.begin(file, step, form, charset)));
    else if (!isSameForm(output.form, form)) {
      // Another step writes to it in another way: behind what is there by now.
      output.writer.finish();
      Object.assign(output, { form, writer: this.writer(file, { ...form, append: true }, charset) });
    }
    output.writer.write(rows);
    output.count += rows.length;
  }

  /** Notes that a file is written from now on; one that was changed since this very run wrote it is not touched. */
  private begin(file: RowsFile, step: string, form: WriteForm, charset: string | undefined): Output {
    const { path } = file;
    const now = file.size();
    const recorded = this.recorded(path);
    const op = opOf(form);
    refuseBegin(file, now, recorded, op === 'replaced' && form.isChosen === true);
    const sizeBefore = recorded?.sizeBefore ?? now;
    const size = op === 'appended' ? Math.min(sizeBefore, now) : now;
    // Rows that this very run has put there already are written again, and so are cut off first.
    if (size < now) file.cut(size);
    if (!file.isNowhere) this.record({ type: 'file', step, path, op, before: { size }, after: { size } });
    const writer = this.writer(file, form, charset);
    return { step, op: sizeBefore === 0 ? 'wrote' : op, file, form, writer, count: 0 };
  }

  private writer(
    file: RowsFile,
    { updateBy, append, reveal, spreadsheet, isText }: WriteForm,
    charset?: string,
  ): Writer {
    const text = new TextFile(file, reveal, charset);
    const form = isText ? new TextRows() : rowsFormOf(file.path, { mayWiden: updateBy !== undefined, spreadsheet });
    return updateBy === undefined
      ? new AppendedRows(text, form, append)
      : new UpdatedRows(file, text, form, updateBy, this.clock);
  }

  /** Puts a failed item of a loop into its file. */
  reject(file: RowsFile, step: string, reject: Reject, how: RejectsForm): void {
    let rejected = this.rejected.get(file.path);
    if (!rejected) {
      const isNew = file.size() === 0;
      if (how.isChosen && !isNew && !this.recorded(file.path)) throw chosenFault(file.path);
      rejected = { step, file, items: new RejectedItems(file, this.clock, how.table), isNew };
      this.rejected.set(file.path, rejected);
    }
    rejected.items.add(reject);
  }

  /** Writes what is still waiting; tells of every file. */
  close(): readonly EventBody[] {
    const told: EventBody[] = [];
    for (const { step, op, file, writer, count } of this.files.values()) {
      writer.finish();
      if (file.isNowhere) continue;
      told.push({ type: 'file', step, path: file.path, op, after: stateOf(file), rows: count });
    }
    for (const { step, file, items, isNew } of this.rejected.values()) {
      items.finish();
      if (file.isNowhere) continue;
      told.push({
        type: 'file',
        step,
        path: file.path,
        op: isNew ? 'wrote' : 'replaced',
        after: { size: file.size() },
        rows: items.count,
      });
    }
    this.files.clear();
    this.rejected.clear();
    return told;
  }
}

/** How rejected items are written: like the table that they are of; to a file whose name was chosen or not. */
type RejectsForm = Readonly<{ isChosen: boolean; table: RejectedTable | undefined }>;

function chosenFault(path: string): RowFault {
  const message = `${path} exists, and a name with a placeholder replaces no file`;
  return new RowFault('file-exists', message, 'Move it away, or allow it with replace: true.');
}

/** A file as it is: its size in bytes, and its digest where that is quickly had. */
type FileState = Readonly<{ size: number; sha256?: string }>;

/** What is recorded of a file that a run wrote: its size before, and how it was left unless that was not recorded. */
type RecordedFile = Readonly<{ sizeBefore: number; after: FileState | undefined }>;

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

function isSameForm(one: WriteForm, other: WriteForm): boolean {
  const { updateBy, append, reveal, spreadsheet } = one;
  return (
    updateBy === other.updateBy &&
    append === other.append &&
    reveal === other.reveal &&
    spreadsheet === other.spreadsheet
  );
}

function opOf({ updateBy, append }: WriteForm): FileOp {
  return updateBy !== undefined ? 'updated' : append ? 'appended' : 'replaced';
}

/** What somebody else has changed, and what was there before a run that chose its name, is not touched. Throws `RowFault`. */
function refuseBegin(file: RowsFile, now: number, recorded: RecordedFile | undefined, isChosen: boolean): void {
  if (now === 0) return;
  if (recorded?.after && !isSame(recorded.after, file)) {
    const message = `${file.path} changed after this run wrote it, and was not overwritten`;
    throw new RowFault('written-file-changed', message, 'Move it away, or restore it as the run left it.');
  }
  if (isChosen && !recorded) throw chosenFault(file.path);
}
