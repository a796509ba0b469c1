import type { EventBody } from '../journal/events.ts';
import type { Clock, RowsFile } from '../ports.ts';
import { writeJson } from '../value/json-write.ts';
import { textOf } from '../value/text.ts';
import { isList, isObject, memberOf, type ObjectValue, type Value } from '../value/value.ts';
import { csvText, rowKindOf, tableText } from './row-texts.ts';

/** An item that failed: its place among the items of the run, the step that failed and why. */
export type Reject = Readonly<{ order: readonly number[]; item: Value; step: string; reason: string }>;

/** It is written at most so often, and when the run ends. */
const FLUSH_MS = 1000;

/**
 * The file of the failed items of a loop, in the order of the list, with all their columns: it can be taken again as the
 * table. It stands as soon as the first item fails, and is written whole each time, so that no half of it is ever seen.
 */
export class RejectsFile {
  private readonly rows: Reject[] = [];
  private flushedAt = -Infinity;

  constructor(
    private readonly file: RowsFile,
    private readonly step: string,
    private readonly clock: Clock,
  ) {}

  add(reject: Reject): void {
    this.rows.push(reject);
    if (this.clock.monotonicMs() - this.flushedAt >= FLUSH_MS) this.flush();
  }

  close(): EventBody {
    this.flush();
    const size = this.file.size();
    const { step, rows } = this;
    return { type: 'file', step, path: this.file.path, op: 'updated', after: { size }, rows: rows.length };
  }

  private flush(): void {
    this.flushedAt = this.clock.monotonicMs();
    this.rows.sort(inOrder);
    const items = this.rows.map(({ item }): ObjectValue => (isObject(item) ? item : { item }));
    const known = [...new Set(items.flatMap((item) => Object.keys(item)))];
    const step = known.includes('step') ? 'failed_step' : 'step';
    const reason = known.includes('reason') ? 'failed_reason' : 'reason';
    const rows = items.map((item, i) => ({ ...item, [step]: this.rows[i]!.step, [reason]: this.rows[i]!.reason }));
    const columns = [...known, step, reason];
    const line = (row: ObjectValue) => csvText([columns.map((name) => cellOf(memberOf(row, name) ?? null))]);
    this.file.replace(tableText(rowKindOf(this.file.path), columns, rows, line), false);
  }
}

function inOrder(left: Reject, right: Reject): number {
  const at = left.order.findIndex((each, i) => each !== right.order[i]);
  return at < 0 ? 0 : left.order[at]! - (right.order[at] ?? 0);
}

/** Nothing of an item is lost: what has no form in CSV stands there as JSON. */
function cellOf(value: Value): string {
  if (value === null) return '';
  if (isList(value) || isObject(value)) return writeJson(value);
  const text = textOf(value);
  return typeof text === 'string' ? text : '';
}
