import { csvParse } from '../packages.ts';
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
