import { csvParse, csvParseStream, csvStringify } from '../packages.ts';
import { counted } from './show.ts';
import { defineMember, type ObjectValue } from './value.ts';

/** How CSV is read everywhere; a row has at most 1 MiB. */
const READING = { bom: true, skip_empty_lines: true, max_record_size: 1024 * 1024 } as const;

type CsvOptions = Readonly<{ separator?: string }>;

/** How a CSV text is laid out: what stands between its cells, and behind each row. */
export type CsvLayout = Readonly<{ separator: string; lineEnd: '\n' | '\r\n' }>;

export const PLAIN_CSV: CsvLayout = { separator: ',', lineEnd: '\n' };

/** Why a text is no CSV; the message has the line. */
export class CsvFault extends Error {}

/**
 * The rows of a CSV text (RFC 4180) with a header row, each an object of texts; line breaks inside quotes are kept.
 * Throws `CsvFault`.
 */
export function readCsv(text: string, options: CsvOptions = {}): readonly ObjectValue[] {
  const [names = [], ...records] = recordsIn(text, options);
  return records.map((cells) => rowOf(names, cells));
}

/** The names in the header row of a CSV text, or of its beginning. Throws `CsvFault`. */
export function csvNames(text: string, options: CsvOptions = {}): readonly string[] {
  return recordsIn(text, options, { to: 1 })[0] ?? [];
}

/** Names of columns must differ: a row holds one cell of a name. Throws `CsvFault`. */
export function onceEach(names: readonly string[]): readonly string[] {
  if (new Set(names).size === names.length) return names;
  const twice = names.find((name, i) => names.indexOf(name) < i)!;
  throw new CsvFault(`its header has the column "${twice}" twice`);
}

const SEPARATORS = [',', ';', '\t', '|'];

/** How a text was laid out by whoever wrote it: its separator is the one with which its header has the most of some columns. */
export function csvLayoutOf(text: string, columns: readonly string[]): CsvLayout {
  const known = (separator: string): number => {
    try {
      const names = new Set(csvNames(text, { separator }));
      return columns.filter((name) => names.has(name)).length;
    } catch {
      return -1;
    }
  };
  const counts = SEPARATORS.map(known);
  return {
    separator: SEPARATORS[counts.indexOf(Math.max(...counts))]!,
    lineEnd: /\r?\n/.exec(text)?.[0] === '\r\n' ? '\r\n' : '\n',
  };
}

/** A separator other than the comma that would cut a single name in several. */
export function separatorIn(name: string): string | undefined {
  return SEPARATORS.slice(1).find((separator) => name.includes(separator));
}

/** Rows of cells as CSV, which reads as what was written: no line break stands outside of quotes, and no row is an empty line. */
export function csvText(rows: readonly (readonly string[])[], { separator, lineEnd }: CsvLayout = PLAIN_CSV): string {
  return csvStringify().stringify(rows as string[][], {
    delimiter: separator,
    record_delimiter: lineEnd,
    quoted_match: /[\r\n]/,
    quoted_empty: rows[0]?.length === 1,
  });
}

/** The same for a text that comes in pieces: the rows of each piece. Throws `CsvFault`. */
export async function* csvRows(
  texts: AsyncIterable<string>,
  { separator = ',' }: CsvOptions = {},
): AsyncGenerator<readonly ObjectValue[]> {
  let rows: ObjectValue[] = [];
  const parser = csvParseStream().parse({ ...READING, delimiter: separator });
  let names: readonly string[] | undefined;
  // Waiting for rows one by one would take longer than reading them.
  parser.on('data', (cells: string[]) => {
    if (names) rows.push(rowOf(names, cells));
    else names = cells;
  });
  const done = (begin: (end: (error?: Error | null) => void) => void) =>
    new Promise<void>((resolve, reject) => begin((error) => (error ? reject(faultOf(error)) : resolve())));
  parser.on('error', () => {});
  for await (const text of texts) {
    await done((end) => parser.write(text, end));
    onceEach(names ?? []);
    if (rows.length > 0) yield rows;
    rows = [];
  }
  await done((end) => parser.end(end));
  onceEach(names ?? []);
  if (rows.length > 0) yield rows;
}

function recordsIn(text: string, { separator = ',' }: CsvOptions, more: object = {}): readonly (readonly string[])[] {
  try {
    return csvParse().parse(text, { ...READING, ...more, delimiter: separator }) as string[][];
  } catch (error) {
    throw faultOf(error as Error);
  }
}

/** Rows are made here and not by the package, which takes longer over it than over reading them. */
function rowOf(names: readonly string[], cells: readonly string[]): ObjectValue {
  const row: Record<string, string> = {};
  for (let i = 0; i < names.length; i++) defineMember(row, names[i]!, cells[i]!);
  return row;
}

/** What the package tells in its error. */
type PackageError = Error & Readonly<{ code?: string; lines?: number; record?: readonly string[]; message: string }>;

function faultOf(error: PackageError): Error {
  const line = error.lines ?? 0;
  switch (error.code) {
    case 'INVALID_OPENING_QUOTE':
      return new CsvFault(`a quote inside a cell that does not begin with one, in line ${line}`);
    case 'CSV_INVALID_CLOSING_QUOTE':
    case 'CSV_NON_TRIMABLE_CHAR_AFTER_CLOSING_QUOTE':
      return new CsvFault(`text after the closing quote of a cell, in line ${line}`);
    case 'CSV_QUOTE_NOT_CLOSED':
      return new CsvFault(`a quote is never closed; the text ends in line ${line}`);
    case 'CSV_RECORD_INCONSISTENT_FIELDS_LENGTH':
      return new CsvFault(
        `the row that ends in line ${line} has ${counted(error.record?.length ?? 0, 'cell')}, unlike the header`,
      );
    case 'CSV_MAX_RECORD_SIZE':
      return new CsvFault(`the row in line ${line} exceeds 1 MiB`);
    default:
      return error;
  }
}

/** A cell that a spreadsheet would run, made a text; numbers stay what they are. */
export function neutral(cell: string): string {
  return /^[=+\-@\t\r]/.test(cell) && !/^[+-]?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?$/.test(cell) ? `'${cell}` : cell;
}
