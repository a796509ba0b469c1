import { diagnosticAt, type Diagnostic } from '../diagnostics/source.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import { readCsv } from '../value/csv.ts';
import { readJson } from '../value/json-read.ts';
import { counted, showValue } from '../value/show.ts';
import { isList, isObject, memberOf, type Value } from '../value/value.ts';
import type { TableForm, Take } from './model.ts';
import { takeTypes } from './take-types.ts';

/** Bad cells that are shown. */
const MAX_SHOWN = 50;

export type TableRead = Readonly<{ rows: readonly Value[] }> | Readonly<{ diagnostics: readonly Diagnostic[] }>;

/**
 * The rows of a table, each cell of the type that `columns` says; every row is looked at before anything is sent. `text` is
 * the decoded file, whose name says by its end whether it is CSV, NDJSON or JSON.
 */
export function readTable(text: string, name: string, take: Take, zone: string): TableRead {
  const report = (
    code: 'not-decodable' | 'column-missing' | 'bad-cell',
    message: string,
    advice?: string,
  ): Diagnostic => diagnosticAt(take.file, { code, range: take.nameRange, message, ...(advice ? { advice } : {}) });
  let rows: Value;
  try {
    rows = rowsOf(text, name, take.table);
  } catch (error) {
    return { diagnostics: [report('not-decodable', `The table ${name} cannot be read: ${(error as Error).message}`)] };
  }
  if (!isList(rows) || !rows.every(isObject)) {
    const message = `The table ${name} is no list of rows`;
    return {
      diagnostics: [
        report('not-decodable', message, 'A table is CSV with a header row, NDJSON, or a list of objects.'),
      ],
    };
  }
  const columns = take.table.columns;
  const known = Object.keys(rows[0] ?? {});
  const missing = rows.length === 0 ? [] : columns.filter((column) => !known.includes(column.name));
  if (missing[0]) {
    const names = missing.map((column) => column.name).join(', ');
    const advice = didYouMean(missing[0].name, known) ?? `It has ${known.join(', ')}.`;
    return { diagnostics: [report('column-missing', `The table ${name} has no column ${names}`, advice)] };
  }
  const bad: string[] = [];
  let count = 0;
  const typed =
    columns.length === 0
      ? rows
      : rows.map((row, index) =>
          typedRow(row, columns, zone, (column, value) => {
            // The header is row 1 of a CSV file.
            count++;
            if (bad.length < MAX_SHOWN)
              bad.push(
                `row ${index + 2}, ${column.name}: ${showValue(value, 40)} is not ${takeTypes[column.value].what}`,
              );
          }),
        );
  if (count === 0) return { rows: typed };
  const rest = count > bad.length ? `; and ${counted(count - bad.length, 'more cell')}` : '';
  const message = `${counted(count, 'cell')} of ${name} ${count === 1 ? 'does' : 'do'} not fit: ${bad.join('; ')}${rest}`;
  return { diagnostics: [report('bad-cell', message, 'Correct them, or the types under columns:.')] };
}

function rowsOf(text: string, name: string, { separator }: TableForm): Value {
  const plain = text.charCodeAt(0) === 0xfeff ? text.slice(1) : text;
  if (/\.(ndjson|jsonl)$/i.test(name)) {
    return plain.split('\n').flatMap((line, i) => {
      if (line.trim() === '') return [];
      const json = readJson(line);
      if (!json.ok) throw new Error(`${json.message}, in line ${i + 1}`);
      return [json.value];
    });
  }
  if (/\.json$/i.test(name) || (!/\.csv$/i.test(name) && /^\s*\[/.test(plain))) {
    const json = readJson(plain);
    if (!json.ok) throw new Error(`${json.message}, at character ${json.offset + 1}`);
    return json.value;
  }
  return readCsv(plain, separator === undefined ? {} : { separator: separator === '\\t' ? '\t' : separator });
}

type Column = TableForm['columns'][number];

/** A row with its cells typed: an empty one of a typed column is null. What does not fit is told and left as it is. */
function typedRow(
  row: Value,
  columns: readonly Column[],
  zone: string,
  tell: (column: Column, value: Value) => void,
): Value {
  const typed: Record<string, Value> = { ...(row as Record<string, Value>) };
  for (const column of columns) {
    const cell = memberOf(row, column.name) ?? null;
    if (cell === null || column.value === 'text') continue;
    const type = takeTypes[column.value];
    const value = cell === '' ? null : typeof cell === 'string' ? type.parse(cell, zone) : type.accept(cell, zone);
    if (value === undefined) tell(column, cell);
    else typed[column.name] = value;
  }
  return typed;
}
