import { csvParse, csvParseStream } from '../packages.ts';
import { defineMember, type Value } from './value.ts';

/** How CSV is read everywhere; a field has at most 1 MiB. */
const CSV_FORM = { bom: true, skip_empty_lines: true, max_record_size: 1024 * 1024 } as const;

export type CsvOptions = Readonly<{ separator?: string }>;

/**
 * The rows of a CSV text (RFC 4180) with a header row, each an object of texts; line breaks inside quotes are kept.
 * Throws the package's error, whose message has the line.
 */
export function readCsv(text: string, { separator = ',' }: CsvOptions = {}): Value {
  const [names = [], ...records] = csvParse().parse(text, { ...CSV_FORM, delimiter: separator }) as string[][];
  return records.map((cells) => rowOf(names, cells));
}

/** The names in the header row of a CSV text. Throws the package's error. */
export function csvNames(text: string, { separator = ',' }: CsvOptions = {}): readonly string[] {
  const [names = []] = csvParse().parse(text, { ...CSV_FORM, delimiter: separator, to: 1 }) as string[][];
  return names;
}

/** Rows are made here and not by the package, which takes longer over it than over reading them. */
function rowOf(names: readonly string[], cells: readonly string[]): Value {
  const row: Record<string, Value> = {};
  for (let i = 0; i < names.length; i++) defineMember(row, names[i]!, cells[i]!);
  return row;
}

/** The same for a text that comes in pieces: the rows of each piece. */
export async function* csvRows(
  texts: AsyncIterable<string>,
  { separator = ',' }: CsvOptions = {},
): AsyncGenerator<readonly Value[]> {
  let rows: Value[] = [];
  const parser = csvParseStream().parse({ ...CSV_FORM, delimiter: separator });
  let names: readonly string[] | undefined;
  // Waiting for rows one by one would take longer than reading them.
  parser.on('data', (cells: string[]) => {
    if (names) rows.push(rowOf(names, cells));
    else names = cells;
  });
  const done = (begin: (end: (error?: Error | null) => void) => void) =>
    new Promise<void>((resolve, reject) => begin((error) => (error ? reject(error) : resolve())));
  parser.on('error', () => {});
  for await (const text of texts) {
    await done((end) => parser.write(text, end));
    if (rows.length > 0) yield rows;
    rows = [];
  }
  await done((end) => parser.end(end));
  if (rows.length > 0) yield rows;
}
