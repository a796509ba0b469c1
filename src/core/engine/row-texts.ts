import { csvStringify } from '../packages.ts';
import { readCsv } from '../value/csv.ts';
import { readJson } from '../value/json-read.ts';
import { writeJson } from '../value/json-write.ts';
import { textOf } from '../value/text.ts';
import { isList, type ObjectValue, type Value } from '../value/value.ts';

/** How rows are written, by the end of a file's name. */
export type RowKind = 'csv' | 'ndjson' | 'json';

/** Thrown for rows that a file cannot take. */
export class RowFault extends Error {
  constructor(
    readonly code: 'no-such-column' | 'bad-value' | 'not-a-list' | 'written-file-changed',
    message: string,
  ) {
    super(message);
  }
}

export function rowKindOf(path: string): RowKind {
  const end = /\.([A-Za-z]+)$/.exec(path)?.[1]?.toLowerCase();
  return end === 'json' ? 'json' : end === 'ndjson' || end === 'jsonl' ? 'ndjson' : 'csv';
}

/** A whole file of rows. `line` makes the line of a row in CSV. */
export function tableText(
  kind: RowKind,
  columns: readonly string[],
  rows: readonly ObjectValue[],
  line: (row: ObjectValue) => string,
): string {
  if (kind === 'csv') return csvText([columns]) + rows.map(line).join('');
  return kind === 'ndjson' ? rows.map((row) => `${writeJson(row)}\n`).join('') : `${writeJson(rows, 2)}\n`;
}

export function rowsIn(text: string, kind: RowKind): readonly Value[] {
  if (kind === 'csv') return readCsv(text) as readonly Value[];
  const texts = kind === 'json' ? [text] : text.split('\n').filter((line) => line.trim() !== '');
  return texts.flatMap((each) => {
    const json = readJson(each);
    if (!json.ok) return [];
    return isList(json.value) ? json.value : [json.value];
  });
}

/** A key by which rows are found again, as a text. */
export function keyText(key: Value): string {
  const text = textOf(key);
  return typeof text === 'string' ? text : writeJson(key);
}

export function csvText(rows: readonly (readonly string[])[]): string {
  return csvStringify().stringify(rows as string[][]);
}
