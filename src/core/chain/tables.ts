import type { Code } from '../diagnostics/catalogue.ts';
import { diagnosticAt, type Diagnostic } from '../diagnostics/source.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import { decodePieces, DecodeFault } from '../http/charset.ts';
import type { LinesFile } from '../ports.ts';
import { CsvFault, separatorIn } from '../value/csv.ts';
import { ListBuilder } from '../value/spilled-list.ts';
import { counted, showValue } from '../value/show.ts';
import { isObject, SpilledList, memberOf, type Items, type Value } from '../value/value.ts';
import type { TableForm, InputDefinition } from './model.ts';
import { rowsIn, tableKindOf } from '../value/rows-in.ts';
import { inputTypes } from './input-types.ts';

/** Bad cells that are shown. */
const MAX_SHOWN = 50;

/** A table that is to be read: its name, whose end says what it is, and its bytes. */
export type TableSource = Readonly<{ name: string; chunks(): AsyncIterable<Uint8Array> }>;

export type TableRead = Readonly<{ rows: Items }> | Readonly<{ diagnostics: readonly Diagnostic[] }>;

/**
 * The rows of a table, each cell of the type that `columns` says; every row is looked at before anything is sent. With a
 * place for lines a long table is not held: it goes there as it is read.
 */
export async function readTable(
  source: TableSource,
  input: InputDefinition,
  zone: string,
  lines?: () => LinesFile,
): Promise<TableRead> {
  const { name } = source;
  try {
    const texts = decodePieces(source.chunks(), input.table.charset)[Symbol.asyncIterator]();
    const first = await texts.next();
    const kind = tableKindOf(name, first.done ? '' : first.value);
    const cells = new Cells(name, input, zone, kind === 'csv' ? 2 : 1);
    const builder = new ListBuilder(lines, cells.typed);
    for await (const rows of rowsIn(again(first, texts), kind, input.table)) {
      for (const row of rows) {
        cells.look(row);
        builder.add(row);
      }
    }
    const diagnostics = cells.problems();
    return diagnostics.length > 0 ? { diagnostics } : { rows: builder.finish() };
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    const { code, message, advice } = whyUnreadable(error);
    const told = { code, message: `The table ${name} cannot be read: ${message}`, ...(advice ? { advice } : {}) };
    return { diagnostics: [diagnosticAt(input.file, { ...told, range: input.nameRange })] };
  }
}

/** A list that is given as a table, its cells looked at and typed. */
export function tableOfRows(rows: readonly Value[], input: InputDefinition, zone: string): TableRead {
  const cells = new Cells(input.name, input, zone, 1);
  rows.forEach(cells.look);
  const diagnostics = cells.problems();
  return diagnostics.length > 0 ? { diagnostics } : { rows: rows.map(cells.typed) };
}

/** A long list as a table, of which every row was looked at when it was written down. */
export function tableOfSpilled(
  { pieces, length, file }: SpilledList,
  input: InputDefinition,
  zone: string,
): SpilledList {
  const { typed } = new Cells(input.name, input, zone, 1);
  async function* rows(): AsyncGenerator<readonly Value[]> {
    for await (const piece of pieces()) yield piece.map(typed);
  }
  return new SpilledList(rows, length, file);
}

function whyUnreadable(error: Error): Readonly<{ code: Code; message: string; advice?: string | undefined }> {
  if (error instanceof DecodeFault) return error.problem;
  const advice =
    error instanceof CsvFault ? 'If cells are not separated by commas, add separator to the input.' : undefined;
  return { code: 'not-decodable', message: error.message, advice };
}

async function* again(first: IteratorResult<string>, rest: AsyncIterator<string>): AsyncGenerator<string> {
  for (let next = first; !next.done; next = await rest.next()) yield next.value;
}

type Column = TableForm['columns'][number];

/** Types whose texts have a decimal mark and groups of thousands. */
const NUMBERS: ReadonlySet<string> = new Set(['number', 'integer']);

/** A number with the marks of its table as one with a point and no groups; nothing where its signs are others. */
function plainNumber(text: string, { decimal, thousands }: TableForm): string | undefined {
  if (decimal === undefined && thousands === undefined) return text;
  const [whole = '', fraction = '0', ...more] = text.trim().split(decimal ?? '.');
  const digits = thousands === undefined ? whole : ungrouped(whole.split(thousands));
  const isFraction = more.length === 0 && /^\d+(?:[eE][-+]?\d+)?$/.test(fraction);
  if (digits === undefined || !/^[-+]?\d+$/.test(digits) || !isFraction) return undefined;
  return whole === text.trim() ? digits : `${digits}.${fraction}`;
}

/** Digits in groups of three as one; nothing where a group has another length. */
function ungrouped([first = '', ...groups]: readonly string[]): string | undefined {
  const isGrouped = groups.length === 0 || /^[-+]?\d{1,3}$/.test(first);
  return isGrouped && groups.every((group) => /^\d{3}$/.test(group)) ? first + groups.join('') : undefined;
}

/** The cells of a table, as they come: their types, and what is wrong with them. */
export class Cells {
  private readonly columns: readonly Column[];
  private readonly bad: string[] = [];
  private count = 0;
  private rows = 0;
  private missing: Diagnostic | undefined;
  /** What stands where a row should. */
  private noRow: string | undefined;

  constructor(
    private readonly name: string,
    private readonly input: InputDefinition,
    private readonly zone: string,
    /** The number that the first row has in its file. */
    private readonly firstNumber: number,
  ) {
    this.columns = input.table.columns.filter(({ value }) => value !== 'string');
  }

  /** Looks whether a row fits. */
  readonly look = (row: Value): void => {
    this.rows++;
    if (!isObject(row)) this.noRow ??= `row ${this.number} is ${showValue(row, 40)}`;
    else if (this.rows === 1) this.lookAtNames(Object.keys(row));
    for (const column of this.columns) {
      const cell = memberOf(row, column.name) ?? null;
      if (cell === null || this.valueOf(column, cell) !== undefined) continue;
      this.count++;
      if (this.bad.length >= MAX_SHOWN) continue;
      const what = `${showValue(cell, 40)} is not ${inputTypes[column.value].what}`;
      this.bad.push(`row ${this.number}, ${column.name}: ${what}`);
    }
  };

  /** A row with its cells typed: an empty one of a typed column is null. */
  readonly typed = (row: Value): Value => {
    if (this.columns.length === 0) return row;
    const typed: Record<string, Value> = { ...(row as Record<string, Value>) };
    for (const column of this.columns) {
      const cell = memberOf(row, column.name) ?? null;
      const value = cell === null ? null : this.valueOf(column, cell);
      if (value !== undefined && cell !== null) typed[column.name] = value;
    }
    return typed;
  };

  problems(): readonly Diagnostic[] {
    const { name, count, bad, missing } = this;
    if (this.noRow !== undefined) {
      const advice = 'A table is CSV with a header row, NDJSON, or an array of objects.';
      return [this.problem('not-decodable', `The table ${name} is not an array of rows: ${this.noRow}`, advice)];
    }
    if (missing) return [missing];
    if (count === 0) return [];
    const rest = count > bad.length ? [`and ${counted(count - bad.length, 'more cell')}`] : [];
    const message = `${counted(count, 'cell')} of the table ${name} ${count === 1 ? 'does' : 'do'} not fit`;
    const advice = 'Correct the cells, or the types under columns.';
    return [{ ...this.problem('invalid-cell', message, advice), list: [...bad, ...rest] }];
  }

  /** The row at hand, as it is counted in its file. */
  private get number(): number {
    return this.rows - 1 + this.firstNumber;
  }

  private lookAtNames(known: readonly string[]): void {
    const missing = this.input.table.columns.filter((column) => !known.includes(column.name));
    if (!missing[0]) return;
    const names = missing.map((column) => column.name).join(', ');
    const [only = ''] = known;
    const separator = known.length === 1 ? separatorIn(only) : undefined;
    const advice =
      separator === undefined
        ? (didYouMean(missing[0].name, known) ?? `Its columns are ${known.join(', ')}.`)
        : `Its only column is "${only}"; if these are several, add separator: ${JSON.stringify(separator)} to the input.`;
    this.missing = this.problem('column-missing', `The table ${this.name} has no column ${names}`, advice);
  }

  private valueOf({ value: type }: Column, cell: Value): Value | undefined {
    if (cell === '') return null;
    const { parse, accept } = inputTypes[type];
    if (typeof cell !== 'string') return accept(cell, this.zone);
    const text = NUMBERS.has(type) ? plainNumber(cell, this.input.table) : cell;
    return text === undefined ? undefined : parse(text, this.zone);
  }

  private problem(
    code: 'not-decodable' | 'column-missing' | 'invalid-cell',
    message: string,
    advice: string,
  ): Diagnostic {
    return diagnosticAt(this.input.file, { code, range: this.input.nameRange, message, advice });
  }
}
