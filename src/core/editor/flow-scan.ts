import type { Around, PathKey } from './around.ts';

type Open = {
  closer: '}' | ']';
  path: readonly PathKey[];
  keys: Map<string, string>;
  key: string | undefined;
  item: number;
};

/** A value in braces, brackets or quotes, up to the cursor or to its end. */
export class FlowScan {
  private readonly open: Open[] = [];
  private quote: '' | '"' | "'" = '';
  /** Where what is being written begins. */
  private from: number;

  constructor(
    private readonly text: string,
    private readonly start: number,
    private readonly offset: number,
    private readonly path: readonly PathKey[],
  ) {
    this.from = start;
  }

  /** The offset behind the value; `undefined` when the cursor is in it. */
  run(): number | undefined {
    const { text, offset } = this;
    for (let at = this.start; at < offset;) {
      const next = this.quote ? this.inQuotes(at) : this.outside(at);
      if (next === undefined) return at + 1;
      at = next;
    }
    const isOpen = this.open.length > 0 || this.quote !== '';
    return isOpen || offset <= this.start || text.length === 0 ? undefined : offset;
  }

  private inQuotes(at: number): number | undefined {
    const { text, quote } = this;
    if (quote === '"' && text[at] === '\\') return at + 2;
    if (text[at] !== quote) return at + 1;
    if (quote === "'" && text[at + 1] === "'" && at + 1 < this.offset) return at + 2;
    this.quote = '';
    return this.open.length === 0 ? undefined : at + 1;
  }

  private outside(at: number): number | undefined {
    const sign = this.text[at]!;
    if ((sign === '"' || sign === "'") && this.text.slice(this.from, at).trim() === '') {
      this.quote = sign;
      this.from = at + 1;
      return at + 1;
    }
    if (sign === '#' && /\s/.test(this.text[at - 1] ?? ' ')) return endOfLine(this.text, at, this.offset);
    if (!this.structure(sign, at)) return at + 1;
    if (this.open.length === 0) return undefined;
    this.from = at + 1;
    return at + 1;
  }

  /** Whether a character begins, separates or ends something. */
  private structure(sign: string, at: number): boolean {
    const top = this.open.at(-1);
    if (sign === '{' || sign === '[') this.begin(sign);
    else if (!top) return false;
    else if (sign === top.closer) this.open.pop();
    else if (sign === ',') this.separate(top, at);
    else if (this.isColon(top, at)) this.name(top, at);
    else return false;
    return true;
  }

  /** The colon behind a key, which no other character may follow. */
  private isColon({ closer }: Open, at: number): boolean {
    return this.text[at] === ':' && closer === '}' && /[\s,}[\]{]|$/.test(this.text[at + 1] ?? '\n');
  }

  private name(top: Open, at: number): void {
    top.key = this.word(at);
    top.keys.set(top.key, '');
  }

  private separate(top: Open, at: number): void {
    if (top.closer === '}') top.keys.set(top.key ?? this.word(at), top.key === undefined ? '' : this.word(at));
    top.key = undefined;
    top.item++;
  }

  private begin(sign: '{' | '['): void {
    const closer = sign === '{' ? '}' : ']';
    this.open.push({ closer, path: this.way(), keys: new Map(), key: undefined, item: 0 });
  }

  /** The way to what is being written. */
  private way(): readonly PathKey[] {
    const top = this.open.at(-1);
    if (!top) return this.path;
    if (top.closer === ']') return [...top.path, top.item];
    return top.key === undefined ? top.path : [...top.path, top.key];
  }

  private word(end: number): string {
    return this.text
      .slice(this.from, end)
      .trim()
      .replace(/^(["'])?(.*?)\1?$/s, '$2');
  }

  /** What is being written where the cursor is. */
  cursor(role: 'value' | 'item') {
    const top = this.open.at(-1);
    const inner = !top ? role : top.closer === ']' ? 'item' : top.key === undefined ? 'key' : 'value';
    const blanks = this.quote ? 0 : /^\s*/.exec(this.text.slice(this.from, this.offset))![0].length;
    const closers =
      this.quote +
      this.open
        .map(({ closer }) => closer)
        .reverse()
        .join('');
    const around = this.open.map(({ path, keys }): Around => ({ path, keys }));
    return { role: inner, path: this.way(), from: this.from + blanks, quote: this.quote, closers, around } as const;
  }
}

function endOfLine(text: string, from: number, limit: number): number {
  const end = text.indexOf('\n', from);
  return end < 0 || end > limit ? limit : end;
}
