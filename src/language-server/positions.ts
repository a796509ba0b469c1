import type { Position, Range as EditorRange } from 'vscode-languageserver/node';
import type { Range } from '../core/diagnostics/problem.ts';
import { lineOf, lineStartsOf, positionOf, type SourceFile } from '../core/diagnostics/source.ts';

/** What a column counts: units of UTF-16, or bytes of UTF-8. */
export type Encoding = 'utf-16' | 'utf-8';

/** A text in lines, with offsets in UTF-16 units as everywhere in here, and positions as an editor counts them. */
export class Lines {
  private readonly file: SourceFile;

  constructor(
    readonly text: string,
    private readonly encoding: Encoding,
  ) {
    this.file = { path: '', text };
  }

  /** The offset of a position; one beyond the end of its line or of the text is the nearest that there is. */
  offsetAt({ line, character }: Position): number {
    const start = lineStartsOf(this.file)[line];
    if (start === undefined) return this.text.length;
    const content = lineOf(this.file, line + 1);
    return start + (this.encoding === 'utf-16' ? Math.min(character, content.length) : unitsOf(content, character));
  }

  positionAt(offset: number): Position {
    const at = Math.min(offset, this.text.length);
    const { line, column } = positionOf(this.file, at);
    if (this.encoding === 'utf-16') return { line: line - 1, character: column - 1 };
    return { line: line - 1, character: Buffer.byteLength(this.text.slice(at - column + 1, at)) };
  }

  rangeOf([start, end]: Range): EditorRange {
    return { start: this.positionAt(start), end: this.positionAt(end) };
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
