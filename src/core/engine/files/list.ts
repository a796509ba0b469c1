import { rowFormatOf, ROW_ENDINGS } from '../../chain/row-format.ts';
import { CsvRows } from './csv-rows.ts';
import { JsonRows } from './json-rows.ts';
import { LineRows } from './line-rows.ts';
import { RowFault } from './row-fault.ts';
import type { RowsForm, RowsFormOptions } from './rows-form.ts';

/** The form of a file by the end of its name; a new one is a file here and a case below. Throws `RowFault`. */
export function rowsFormOf(path: string, options: RowsFormOptions): RowsForm {
  const format = rowFormatOf(path);
  switch (format) {
    case 'csv':
      return new CsvRows(path, options);
    case 'ndjson':
      return new LineRows(path);
    case 'json':
      return new JsonRows(path);
    case undefined:
      throw new RowFault('unknown-format', `The extension of ${path} is of no format for rows`, `Use ${ROW_ENDINGS}.`);
  }
}
