/** A format of files of rows. */
type RowFormat = 'csv' | 'ndjson' | 'json';

const FORMATS: Readonly<Record<string, RowFormat>> = {
  csv: 'csv',
  tsv: 'csv',
  ndjson: 'ndjson',
  jsonl: 'ndjson',
  json: 'json',
};

/** The endings of files of rows, for messages. */
export const ROW_ENDINGS = Object.keys(FORMATS)
  .map((ending) => `.${ending}`)
  .join(', ');

/** How rows stand in a file, by the end of its name; nothing for an ending that says no format. */
export function rowFormatOf(path: string): RowFormat | undefined {
  return FORMATS[/\.([A-Za-z]+)$/.exec(path)?.[1]?.toLowerCase() ?? ''];
}
