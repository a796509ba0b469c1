import { textOf } from '../../value/text.ts';
import { memberOf, type ObjectValue } from '../../value/value.ts';
import type { RowsForm } from './rows-form.ts';

/** The column under which a text is a row. */
export const TEXT_COLUMN = 'text';

/** Texts that are written as they are: the first is the whole file, further ones are lines of it. */
export class TextRows implements RowsForm {
  readonly grows = true;

  read(text: string): readonly ObjectValue[] {
    return [{ [TEXT_COLUMN]: text }];
  }

  learn(): string {
    return '\n';
  }

  whole(rows: readonly ObjectValue[]): string {
    return rows.map(lineOf).join('\n');
  }

  more(rows: readonly ObjectValue[]): string {
    return rows.map((row) => `${lineOf(row)}\n`).join('');
  }
}

function lineOf(row: ObjectValue): string {
  return textOf(memberOf(row, TEXT_COLUMN) ?? '') as string;
}
