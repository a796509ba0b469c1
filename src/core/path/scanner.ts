import { SyntaxFault, type Range, type Fix } from '../diagnostics/problem.ts';
import type { Code } from '../diagnostics/catalogue.ts';

const FIRST = /[A-Za-z_\u0080-\ud7ff\ud800-\udfff\ue000-\uffff]/;
const FOLLOWING = /[A-Za-z0-9_\u0080-\ud7ff\ud800-\udfff\ue000-\uffff]/;
const NAME = /[A-Za-z_\u0080-\u{d7ff}\u{e000}-\u{10ffff}][A-Za-z0-9_\u0080-\u{d7ff}\u{e000}-\u{10ffff}]*/uy;
const BLANKS = ' \t\r\n';
const INTEGER = /0|-?[1-9][0-9]*/y;

/** A text and the place reached in it. It has no tokens of its own: the parser asks for what may stand at a place. */
export class Scanner {
  at = 0;
  private depth = 0;

  constructor(
    readonly text: string,
    readonly maxDepth: number,
    /** Offset behind the last character to read; a placeholder ends before the text that it stands in does. */
    readonly end = text.length,
  ) {}

  /** The character here, or the empty text at the end. */
  peek(offset = 0): string {
    return this.at + offset < this.end ? this.text[this.at + offset]! : '';
  }

  get ended(): boolean {
    return this.at >= this.end;
  }

  starts(sign: string): boolean {
    return this.text.startsWith(sign, this.at) && this.at + sign.length <= this.end;
  }

  take(sign: string): boolean {
    if (!this.starts(sign)) return false;
    this.at += sign.length;
    return true;
  }

  blank(): void {
    while (this.at < this.end && BLANKS.includes(this.text[this.at]!)) this.at++;
  }

  /** Skips blanks only when `sign` follows them; otherwise stays where it is. */
  takeAfterBlank(sign: string): boolean {
    const before = this.at;
    this.blank();
    if (this.take(sign)) return true;
    this.at = before;
    return false;
  }

  match(pattern: RegExp): string | undefined {
    pattern.lastIndex = this.at;
    const found = pattern.exec(this.text)?.[0];
    if (found === undefined || this.at + found.length > this.end) return undefined;
    this.at += found.length;
    return found;
  }

  /** NAME of the grammar, or `undefined`. */
  name(): string | undefined {
    return this.match(NAME);
  }

  /** INT of the grammar: no `-0`, no leading zero, within ±(2^53-1). */
  integer(): number | undefined {
    const start = this.at;
    const text = this.match(INTEGER);
    if (text === undefined) return undefined;
    if (/[0-9]/.test(this.peek())) this.fail([start, this.at + 1], 'A whole number has no leading zero');
    const value = Number(text);
    if (!Number.isSafeInteger(value)) this.fail([start, this.at], `The number ${text} is out of range for an index`);
    return value;
  }

  /** Counts one level of nesting for the length of `inside`; stops texts that nest to exhaust the stack. */
  nested<T>(inside: () => T): T {
    if (++this.depth > this.maxDepth) {
      this.fail(
        [this.at, this.at + 1],
        `Expressions can be nested ${this.maxDepth} levels deep at most`,
        undefined,
        'over-limit',
      );
    }
    const result = inside();
    this.depth--;
    return result;
  }

  /** What stands here, for a message. */
  found(): string {
    if (this.ended) return 'the end';
    const character = String.fromCodePoint(this.text.codePointAt(this.at)!);
    return character === '"' ? "'\"'" : `"${character}"`;
  }

  expected(what: string): never {
    this.fail([this.at, Math.min(this.at + 1, Math.max(this.end, this.at))], `Expected ${what}, found ${this.found()}`);
  }

  fail(range: Range, message: string, advice?: string, code: Code = 'does-not-parse', fix?: Fix): never {
    throw new SyntaxFault({
      code,
      range,
      message,
      ...(advice === undefined ? {} : { advice }),
      ...(fix === undefined ? {} : { fix }),
    });
  }
}

export function beginsName(character: string): boolean {
  return character !== '' && FIRST.test(character);
}

export function continuesName(character: string): boolean {
  return character !== '' && FOLLOWING.test(character);
}

/** Whether a text is a NAME of the grammar as a whole. */
export function isName(text: string): boolean {
  NAME.lastIndex = 0;
  return NAME.exec(text)?.[0].length === text.length;
}
