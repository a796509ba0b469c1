import { entryOf } from '../../yaml/tree.ts';
import { expression, fileName, flag, named, text, value, word } from '../../schema/leaves.ts';
import { rowFormatOf, ROW_ENDINGS } from '../row-format.ts';
import { stepKind } from './definition.ts';
import { expressionPart, textPart, valueParts } from '../parts.ts';

export const write = stepKind({
  key: 'write',
  about: 'Writes rows into a CSV, TSV, NDJSON or JSON file, or a text into any file.',
  shape: () => ({
    write: fileName().describe('The file; its extension decides between CSV, TSV, NDJSON and JSON.'),
    row: named(value()).optional().describe('One row: its cells by column.'),
    rows: expression('an array of rows').optional().describe('Many rows: an array of objects.'),
    text: text().optional().describe('The whole text of a file with any extension; with append a line of it.'),
    'update-by': word('the name of a column')
      .optional()
      .describe('Rows with an equal value in this column are updated, others are appended.'),
    append: flag().optional().describe('Whether rows are appended to what the file contained before the run.'),
    replace: flag().optional().describe('Whether a file name with a placeholder may replace a file that exists.'),
    reveal: flag().optional().describe('Whether secrets are written as they are instead of masked.'),
    spreadsheet: flag()
      .optional()
      .describe('Whether cells that a spreadsheet would run as a formula are written as text.'),
  }),
  read: (given, { node, reading }) => {
    const { keyRange } = entryOf(node, 'write')!;
    const [code, message, advice] = wrongWith(given, given.write.source.text) ?? [];
    if (code) reading.report({ code, range: keyRange, message: message!, advice: advice! });
    return {
      kind: 'write',
      file: given.write,
      row: given.row?.map((entry) => [entry.name, entry.value] as const),
      rows: given.rows,
      text: given.text,
      updateBy: given['update-by']?.text,
      append: given.append ?? false,
      replace: given.replace ?? false,
      reveal: given.reveal ?? false,
      spreadsheet: given.spreadsheet ?? false,
    };
  },
  parts: (step) => {
    const at = { key: step.reveal ? 'reveal' : 'write' };
    return [
      ...textPart(step.file, 'file-written', { key: 'write' }),
      ...(step.row ?? []).flatMap(([, cell]) => valueParts(cell, 'value', at)),
      ...expressionPart(step.rows, at),
      ...textPart(step.text, 'value', at),
    ];
  },
  sourceOf: ({ file }) => file.source,
});

type Given = Readonly<Partial<Record<'row' | 'rows' | 'text' | 'update-by' | 'append', unknown>>>;
type Wrong = readonly [
  code: 'row-and-rows' | 'rows-only' | 'keys-clash' | 'unknown-format',
  message: string,
  advice: string,
];

/** What a write step says that cannot be: too much, too little, or rows for a file that has no form for them. */
function wrongWith(given: Given, file: string): Wrong | undefined {
  const { row, rows, text: whole, append } = given;
  const said = [row, rows, whole].filter((each) => each !== undefined).length;
  const format = /\}$/.test(file) ? 'csv' : rowFormatOf(file);
  if (said !== 1)
    return [
      'row-and-rows',
      'A write step needs one of row, rows and text',
      'row is one row by column, rows an array of rows.',
    ];
  if (whole !== undefined && given['update-by'] !== undefined)
    return ['keys-clash', 'A text has no column to update by', 'Remove update-by.'];
  if (whole === undefined && format === undefined)
    return [
      'unknown-format',
      `The extension of ${file} is of no format for rows`,
      `Use ${ROW_ENDINGS}, or write text.`,
    ];
  if (row !== undefined && format === 'json')
    return [
      'rows-only',
      'A JSON file is written as a whole',
      'Gather the rows and write them with rows, or write NDJSON.',
    ];
  if (append && rows !== undefined && format === 'json') {
    const message = 'A JSON file is written as a whole and cannot be appended to';
    return ['keys-clash', message, 'Remove append, add update-by, or write NDJSON.'];
  }
  return undefined;
}
