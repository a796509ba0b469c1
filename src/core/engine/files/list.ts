import { CsvRows } from './csv-rows.ts';
import { JsonRows } from './json-rows.ts';
import { LineRows } from './line-rows.ts';
import { rowKindOf, type RowsForm, type RowsFormOptions } from './rows-form.ts';

/** The form of a file by the end of its name; a new one is a file here and a case below. */
export function rowsFormOf(path: string, options: RowsFormOptions): RowsForm {
  switch (rowKindOf(path)) {
    case 'csv':
      return new CsvRows(path, options);
    case 'ndjson':
      return new LineRows(path);
    case 'json':
      return new JsonRows(path);
  }
}
