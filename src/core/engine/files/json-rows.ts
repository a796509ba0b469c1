import { readJson } from '../../value/json-read.ts';
import { writeJson } from '../../value/json-write.ts';
import { isList, isObject, type ObjectValue } from '../../value/value.ts';
import { RowFault } from './row-fault.ts';
import type { RowsForm } from './rows-form.ts';

/** JSON: one list of objects, which is written whole. */
export class JsonRows implements RowsForm {
  readonly grows = false;

  constructor(private readonly path: string) {}

  read(text: string): readonly ObjectValue[] {
    const json = readJson(text);
    if (json.ok && isList(json.value) && json.value.every(isObject)) return json.value;
    const why = json.ok ? 'it is not an array of objects' : `${json.message}, at character ${json.offset + 1}`;
    throw new RowFault('not-decodable', `${this.path} cannot be read as rows and was not changed: ${why}`);
  }

  learn(): string {
    return '\n';
  }

  whole(rows: readonly ObjectValue[]): string {
    return `${writeJson(rows, 2)}\n`;
  }

  more(rows: readonly ObjectValue[]): string {
    return this.whole(rows);
  }
}
