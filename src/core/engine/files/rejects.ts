import { rowFormatOf } from '../../chain/row-format.ts';
import type { Clock, RowsFile } from '../../ports.ts';
import { writeJson } from '../../value/json-write.ts';
import { textOf } from '../../value/text.ts';
import { isList, isObject, type ObjectValue, type Value } from '../../value/value.ts';
import { Rewriting } from './rewriting.ts';
import { rowsFormOf } from './list.ts';
import { TextFile } from './text-file.ts';

/** An item that failed: its place among the items of the run, the step that failed and why. */
export type Reject = Readonly<{ order: readonly number[]; item: Value; step: string; reason: string }>;

/** How the table is laid out of which the rejected items are rows. */
export type RejectedTable = Readonly<{ separator: string | undefined; charset: string | undefined }>;

/**
 * The failed items of a loop, in the order of the list, with all their columns: their file can be taken again as the
 * table. It stands as soon as the first item fails, and is written whole each time, so that no half of it is ever seen.
 */
export class RejectedItems {
  private readonly rejects: Reject[] = [];
  private readonly rewriting: Rewriting;

  constructor(
    private readonly file: RowsFile,
    clock: Clock,
    private readonly table: RejectedTable | undefined,
  ) {
    this.rewriting = new Rewriting(clock, () => this.rewrite());
  }

  get count(): number {
    return this.rejects.length;
  }

  add(reject: Reject): void {
    this.rejects.push(reject);
    this.rewriting.changed();
  }

  finish(): void {
    this.rewriting.finish();
  }

  private rewrite(): void {
    this.rejects.sort(inOrder);
    const items = this.rejects.map(({ item }): ObjectValue => (isObject(item) ? item : { item }));
    const known = new Set(items.flatMap((item) => Object.keys(item)));
    const step = known.has('step') ? 'failed_step' : 'step';
    const reason = known.has('reason') ? 'failed_reason' : 'reason';
    const isCsv = rowFormatOf(this.file.path) === 'csv';
    const rows = items.map((item, i): ObjectValue => {
      const { step: failed, reason: why } = this.rejects[i]!;
      const told = { [step]: failed, [reason]: why };
      // The first row has all columns, in the order in which items brought them.
      const all = isCsv && i === 0 ? { ...Object.fromEntries([...known].map((name) => [name, null])), ...item } : item;
      return isCsv ? { ...asCells(all), ...told } : { ...all, ...told };
    });
    const { separator, charset } = this.table ?? {};
    const form = rowsFormOf(this.file.path, { mayWiden: false, spreadsheet: true, separator });
    new TextFile(this.file, false, charset, charset).replace(form.whole(rows));
  }
}

function inOrder(left: Reject, right: Reject): number {
  const at = left.order.findIndex((each, i) => each !== right.order[i]);
  return at < 0 ? 0 : left.order[at]! - (right.order[at] ?? 0);
}

/** Nothing of an item is lost: what has no form in CSV stands there as JSON. */
function asCells(item: ObjectValue): ObjectValue {
  return Object.fromEntries(
    Object.entries(item).map(([name, value]) => {
      if (isList(value) || isObject(value)) return [name, writeJson(value)];
      return [name, value === null || typeof textOf(value) === 'string' ? value : ''];
    }),
  );
}
