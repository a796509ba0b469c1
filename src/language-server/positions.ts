import type { Position, Range as EditorRange } from 'vscode-languageserver/node';
import type { Range } from '../core/diagnostics/problem.ts';

/** What a column counts: units of UTF-16, or bytes of UTF-8. */
export type Encoding = 'utf-16' | 'utf-8';

/** A text in lines, with offsets in UTF-16 units as everywhere in here, and positions as an editor counts them. */
export class Lines {
  private readonly starts: readonly number[];

  constructor(
    readonly text: string,
    private readonly encoding: Encoding,
  ) {
    const starts = [0];
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1);
    this.starts = starts;
  }

  /** The offset of a position; one beyond the end of its line or of the text is the nearest that there is. */
  offsetAt({ line, character }: Position): number {
    if (line >= this.starts.length) return this.text.length;
    const start = this.starts[line]!;
    const content = this.lineFrom(start, line);
    if (this.encoding === 'utf-16') return start + Math.min(character, content.length);
    return start + unitsOf(content, character);
  }

  positionAt(offset: number): Position {
    const line = this.lineOf(Math.min(offset, this.text.length));
    const start = this.starts[line]!;
    const before = this.text.slice(start, Math.min(offset, this.text.length));
    return { line, character: this.encoding === 'utf-16' ? before.length : Buffer.byteLength(before) };
  }

  rangeOf([start, end]: Range): EditorRange {
    return { start: this.positionAt(start), end: this.positionAt(end) };
  }

  private lineFrom(start: number, line: number): string {
    return this.text.slice(start, this.starts[line + 1] ?? this.text.length).replace(/\r?\n$/, '');
  }

  private lineOf(offset: number): number {
    let [low, high] = [0, this.starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.starts[middle]! <= offset) low = middle;
      else high = middle - 1;
    }
    return low;
  }
}

/** How many UTF-16 units so many bytes are; a byte inside of a character is its beginning. */
function unitsOf(text: string, bytes: number): number {
  let units = 0;
  let left = bytes;
  for (const character of text) {
    left -= Buffer.byteLength(character);
    if (left < 0) break;
    units += character.length;
  }
  return units;
}
