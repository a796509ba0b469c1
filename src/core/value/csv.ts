import { csvParse, csvParseStream } from '../packages.ts';
import type { Value } from './value.ts';

/** How CSV is read everywhere; a field has at most 1 MiB. */
export const CSV_FORM = { bom: true, columns: true, skip_empty_lines: true, max_record_size: 1024 * 1024 } as const;

export type CsvOptions = Readonly<{ separator?: string }>;

/**
 * The rows of a CSV text (RFC 4180) with a header row, each an object of texts; line breaks inside quotes are kept.
 * Throws the package's error, whose message has the line.
 */
export function readCsv(text: string, { separator = ',' }: CsvOptions = {}): Value {
  return csvParse().parse(text, { ...CSV_FORM, delimiter: separator }) as Value;
}

/** The same for a text that comes in pieces: the rows of each piece. */
export async function* csvRows(
  texts: AsyncIterable<string>,
  { separator = ',' }: CsvOptions = {},
): AsyncGenerator<readonly Value[]> {
  let rows: Value[] = [];
  const parser = csvParseStream().parse({ ...CSV_FORM, delimiter: separator });
  // Waiting for rows one by one would take longer than reading them.
  parser.on('data', (row: Value) => rows.push(row));
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
