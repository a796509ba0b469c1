import { readJson } from '../../value/json-read.ts';
import { writeJson } from '../../value/json-write.ts';
import { isObject, type ObjectValue } from '../../value/value.ts';
import { RowFault } from './row-fault.ts';
import type { RowsForm } from './rows-form.ts';

/** NDJSON: a row is a JSON object in a line of its own. */
export class LineRows implements RowsForm {
  readonly grows = true;

  constructor(private readonly path: string) {}

  read(text: string): readonly ObjectValue[] {
    return text.split('\n').flatMap((line, i) => {
      if (line.trim() === '') return [];
      const json = readJson(line);
      if (json.ok && isObject(json.value)) return [json.value];
      const why = json.ok ? 'there is no object' : `${json.message},`;
      throw new RowFault(
        'not-decodable',
        `${this.path} cannot be read as rows and was not changed: ${why} in line ${i + 1}`,
      );
    });
  }

  learn(): string {
    return '\n';
  }

  whole(rows: readonly ObjectValue[]): string {
    return rows.map((row) => `${writeJson(row)}\n`).join('');
  }

  more(rows: readonly ObjectValue[]): string {
    return this.whole(rows);
  }
}
