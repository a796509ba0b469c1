/** Thrown where a JSON text has no list at a place, or is none. */
export class ListFault extends Error {}

const STRUCTURE = /["\\[\]{},:]/g;

type Level = { isList: boolean; key: string | number };

/**
 * Finds the list at a place of a JSON text that comes in pieces, and gives the text of it alone, in pieces. What stands around
 * it is gone over for its structure, and nothing more. Of a member that is there twice the first counts.
 */
export class ListFinder {
  private readonly levels: Level[] = [];
  private isInText = false;
  private isEscaped = false;
  /** Where the name of a member begins that is being read, and what of it came with earlier pieces. */
  private name: string | undefined;
  private last = '';
  private state: 'before' | 'inside' | 'behind' = 'before';
  private isClosed = false;

  constructor(private readonly path: readonly (string | number)[]) {}

  get hasFound(): boolean {
    return this.state !== 'before';
  }

  /** The text of the list that stands in the next piece. */
  add(text: string): string {
    let from = this.state === 'inside' ? 0 : -1;
    let list = '';
    let at = 0;
    while (at < text.length) {
      const next = this.isInText ? this.restOfText(text, at) : this.sign(text, at);
      at = next.at;
      if (next.begins !== undefined) from = next.begins;
      if (next.ends !== undefined) {
        list = text.slice(from, next.ends);
        from = -1;
      }
    }
    return from < 0 ? list : text.slice(from);
  }

  end(): void {
    if (!this.isClosed) throw new ListFault('the text ends before it is complete');
  }

  private restOfText(text: string, begin: number): Step {
    const from = this.isEscaped ? begin + 1 : begin;
    this.isEscaped = false;
    let end = text.indexOf('"', from);
    while (end >= 0 && isEscapedAt(text, end, from)) end = text.indexOf('"', end + 1);
    if (end < 0) {
      this.isEscaped = isEscapedAt(text, text.length, from);
      if (this.name !== undefined) this.name += text.slice(begin);
      return { at: text.length };
    }
    if (this.name !== undefined) this.last = this.name + text.slice(begin, end);
    this.name = undefined;
    this.isInText = false;
    return { at: end + 1 };
  }

  private sign(text: string, from: number): Step {
    STRUCTURE.lastIndex = from;
    const found = STRUCTURE.exec(text);
    if (!found) return { at: text.length };
    const { index, 0: sign } = found;
    const at = index + 1;
    switch (sign) {
      case '"':
        this.isInText = true;
        this.name = this.state === 'inside' ? undefined : '';
        return { at };
      case '[':
      case '{':
        return this.opened(sign === '[', index);
      case ']':
      case '}':
        return this.closed(sign === ']', index);
      case ':':
        if (this.state === 'before') this.top.key = named(this.last);
        return { at };
      case ',':
        if (this.top.isList) this.top.key = (this.top.key as number) + 1;
        return { at };
      default:
        return { at };
    }
  }

  private get top(): Level {
    const top = this.levels.at(-1);
    if (!top) throw new ListFault('it is not a JSON object or array');
    return top;
  }

  private opened(isList: boolean, index: number): Step {
    if (this.isClosed) throw new ListFault('text follows behind its end');
    const isThere = this.state === 'before' && isList && this.isAtPlace();
    this.levels.push({ isList, key: isList ? 0 : '' });
    if (!isThere) return { at: index + 1 };
    this.state = 'inside';
    return { at: index + 1, begins: index };
  }

  private isAtPlace(): boolean {
    const { levels, path } = this;
    return levels.length === path.length && levels.every(({ key }, i) => key === path[i]);
  }

  private closed(isList: boolean, index: number): Step {
    if (this.top.isList !== isList) throw new ListFault(`a ${isList ? ']' : '}'} closes nothing`);
    this.levels.pop();
    if (this.levels.length === 0) this.isClosed = true;
    if (this.state !== 'inside' || this.levels.length > this.path.length) return { at: index + 1 };
    this.state = 'behind';
    return { at: index + 1, ends: index + 1 };
  }
}

/** How far a piece was read, and where in it the list begins or ends. */
type Step = Readonly<{ at: number; begins?: number; ends?: number }>;

/** Whether an odd number of backslashes stands before a place. */
function isEscapedAt(text: string, at: number, from: number): boolean {
  let before = at;
  while (before > from && text.charCodeAt(before - 1) === 0x5c) before--;
  return (at - before) % 2 === 1;
}

/** The name of a member from what stands between its quotes. */
function named(text: string): string {
  try {
    return JSON.parse(`"${text}"`) as string;
  } catch {
    return text;
  }
}
