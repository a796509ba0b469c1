import { csvRows } from './csv.ts';
import { readJson } from './json-read.ts';
import { linesIn } from './lines.ts';
import type { Value } from './value.ts';

export type TableKind = 'csv' | 'ndjson' | 'json';

/** Thrown for a text that is no table. */
export class TableFault extends Error {}

/** What a table is by the end of its name; for another name its first character tells. */
export function tableKindOf(name: string, start: string): TableKind {
  if (/\.(ndjson|jsonl)$/i.test(name)) return 'ndjson';
  if (/\.csv$/i.test(name)) return 'csv';
  return /\.json$/i.test(name) || /^\ufeff?\s*\[/.test(start) ? 'json' : 'csv';
}

/** The rows of a table whose text comes in pieces, in pieces. Throws where it is none. */
export function rowsIn(
  texts: AsyncIterable<string>,
  kind: TableKind,
  { separator }: Readonly<{ separator?: string | undefined }>,
): AsyncIterable<readonly Value[]> {
  if (kind === 'ndjson') return lineRows(texts);
  if (kind === 'json') return listRows(texts);
  return csvRows(texts, separator === undefined ? {} : { separator: separator === '\\t' ? '\t' : separator });
}

async function* lineRows(texts: AsyncIterable<string>): AsyncGenerator<readonly Value[]> {
  let number = 0;
  for await (const lines of linesIn(texts)) {
    yield lines.flatMap((line) => {
      number++;
      if (line.trim() === '') return [];
      const json = readJson(line);
      if (!json.ok) throw new TableFault(`${json.message}, in line ${number}`);
      return [json.value];
    });
  }
}

/** The items of a JSON list, each read when all of it is there. */
async function* listRows(texts: AsyncIterable<string>): AsyncGenerator<readonly Value[]> {
  const cutter = new ListCutter();
  for await (const text of texts) yield cutter.add(text);
  cutter.end();
}

const STRUCTURE = /["\\[\]{},]/g;

/** Cuts a JSON text that is a list at the commas between its items. What stands between them is read as JSON. */
class ListCutter {
  private text = '';
  private at = 0;
  /** Where the item begins that is being read. */
  private start = 0;
  /** Characters of the whole text that were read and dropped. */
  private dropped = 0;
  private depth = 0;
  private isInText = false;
  private isEnded = false;
  private count = 0;

  add(text: string): readonly Value[] {
    this.text += text;
    this.start = 0;
    const items: Value[] = [];
    const read = this.scan(items);
    this.at = read - this.start;
    this.dropped += this.start;
    this.text = this.text.slice(this.start);
    if (this.isEnded && this.text.trim() !== '') throw this.fault('expected the end of the string', 0);
    return items;
  }

  /** Goes over the signs that make the structure; gives how far it came. */
  private scan(items: Value[]): number {
    const { text } = this;
    STRUCTURE.lastIndex = this.at;
    for (let found = STRUCTURE.exec(text); found; found = STRUCTURE.exec(text)) {
      const { index, 0: sign } = found;
      if (sign === '\\') {
        // A backslash at the very end is seen again with what follows it.
        if (index + 1 === text.length) return index;
        STRUCTURE.lastIndex = index + 2;
      } else if (sign === '"') this.isInText = !this.isInText;
      else if (!this.isInText) this.structure(sign, index, items);
    }
    return text.length;
  }

  private structure(sign: string, index: number, items: Value[]): void {
    if (sign === '[' || sign === '{') {
      if (this.depth++ === 0) this.start = this.begin(sign, index);
    } else if (sign === ',') {
      if (this.depth === 1) items.push(this.itemBefore(index));
    } else if (--this.depth === 0) {
      const isEmpty = this.count === 0 && this.text.slice(this.start, index).trim() === '';
      if (!isEmpty) items.push(this.itemBefore(index));
      this.isEnded = true;
      this.start = index + 1;
    }
  }

  private itemBefore(index: number): Value {
    const item = this.item(this.start, index);
    this.start = index + 1;
    return item;
  }

  end(): void {
    if (!this.isEnded) throw this.fault('the array is not closed', this.text.length);
  }

  private begin(sign: string, index: number): number {
    if (this.text.slice(0, index).replace('\ufeff', '').trim() !== '' || this.isEnded)
      throw this.fault('expected [', 0);
    if (sign === '{') throw new TableFault('it is an object, not an array');
    return index + 1;
  }

  private item(from: number, to: number): Value {
    this.count++;
    const json = readJson(this.text.slice(from, to));
    if (!json.ok) throw this.fault(json.message, from + json.offset);
    return json.value;
  }

  private fault(message: string, at: number): TableFault {
    return new TableFault(`${message}, at character ${this.dropped + at + 1}`);
  }
}
