import { entryOf } from '../../yaml/tree.ts';
import { expression, fileName, flag, named, value, word } from '../../schema/leaves.ts';
import { stepKind } from './definition.ts';
import { expressionPart, textPart, valueParts } from '../parts.ts';

export const write = stepKind({
  key: 'write',
  about: 'Writes rows into a CSV, NDJSON or JSON file.',
  shape: () => ({
    write: fileName().describe('The file; its extension decides between CSV, NDJSON and JSON.'),
    row: named(value()).optional().describe('One row: its cells by column.'),
    rows: expression('an array of rows').optional().describe('Many rows: an array of objects.'),
    'update-by': word('the name of a column')
      .optional()
      .describe('Rows with an equal value in this column are updated, others are appended.'),
    append: flag().optional().describe('Whether rows are appended to what the file contained before the run.'),
    reveal: flag().optional().describe('Whether secrets are written as they are instead of masked.'),
    spreadsheet: flag()
      .optional()
      .describe('Whether cells that a spreadsheet would run as a formula are written as text.'),
  }),
  read: (given, { node, reading }) => {
    const isJson = /\.json$/i.test(given.write.source.text);
    const { keyRange } = entryOf(node, 'write')!;
    const wrong = (code: 'row-and-rows' | 'rows-only' | 'keys-clash', message: string, advice: string) =>
      reading.report({ code, range: keyRange, message, advice });
    if ((given.row === undefined) === (given.rows === undefined))
      wrong(
        'row-and-rows',
        'A write step needs either row or rows',
        'row is one row by column, rows an array of rows.',
      );
    else if (given.row && isJson)
      wrong(
        'rows-only',
        'A JSON file is written as a whole',
        'Gather the rows and write them with rows, or write NDJSON.',
      );
    else if (given.append && isJson)
      wrong(
        'keys-clash',
        'A JSON file is written as a whole and cannot be appended to',
        'Remove append, add update-by, or write NDJSON.',
      );
    return {
      kind: 'write',
      file: given.write,
      row: given.row?.map((entry) => [entry.name, entry.value] as const),
      rows: given.rows,
      updateBy: given['update-by']?.text,
      append: given.append ?? false,
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
    ];
  },
  sourceOf: ({ file }) => file.source,
});
