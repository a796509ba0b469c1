import { FlowScan } from './flow-scan.ts';
import type { Around, PathKey } from './around.ts';

/** Where a cursor is in a file that may be incomplete. */
export type Cursor = Readonly<{
  offset: number;
  /** A key is being written, a value, or the item of a list, which may become either. */
  role: 'key' | 'value' | 'item';
  /** The way to what is being written: of a key, to the mapping in which it is. */
  path: readonly PathKey[];
  /** The mappings and lists around, outermost first. */
  around: readonly Around[];
  /** Where the text that is being written begins, behind its quote. */
  start: number;
  /** That text up to the cursor. */
  text: string;
  quote: '' | '"' | "'" | '|';
  /** What closes the quote, and the braces and brackets that are open. */
  closers: string;
}>;

type Level = { indent: number; path: readonly PathKey[]; keys: Map<string, string>; key?: string; items?: number };

const KEY = /^((?:"(?:[^"\\]|\\.)*"|'(?:[^']|'')*'|[^\s'"#{}[\],&*!|>%@`-][^\n#]*?|-[^\s\n#][^\n#]*?))\s*:(?=\s|$)/;

/**
 * The place of an offset in YAML, by indentation, quotes and brackets alone: it is known in every file, however little
 * of it can be read. Goes over the text before the cursor once, and over the rest of the innermost mapping.
 */
export function cursorAt(text: string, offset: number): Cursor {
  return new CursorScan(text, offset).run();
}

/** Goes from line to line, with the mappings and lists that are open. */
class CursorScan {
  private readonly levels: Level[] = [];
  private at = 0;

  constructor(
    private readonly text: string,
    private readonly offset: number,
  ) {}

  run(): Cursor {
    for (;;) {
      const found = this.line();
      if (found) return found;
    }
  }

  /** Reads a line and what continues it; gives the cursor when it is in there. */
  private line(): Cursor | undefined {
    const { text } = this;
    const end = lineEnd(text, this.at);
    let from = this.at + indentOf(text, this.at, end);
    if (from === end || text[from] === '#') {
      if (this.offset <= end) return text[from] === '#' && this.offset > from ? this.nowhere() : this.blank();
      this.at = end + 1;
      return undefined;
    }
    for (; text[from] === '-' && /[\s]|$/.test(text[from + 1] ?? '\n');) {
      if (this.offset <= from) return this.blank();
      this.dash(from - this.at);
      const next = from + 1 + indentOf(text, from + 1, end);
      if (this.offset <= next || next === end) {
        if (this.offset <= end) return this.written('item', this.offset, '');
        this.at = end + 1;
        return undefined;
      }
      from = next;
    }
    return this.content(from, end);
  }

  private content(from: number, end: number): Cursor | undefined {
    const key = KEY.exec(this.text.slice(from, end));
    if (!key) return this.scalarLine(from, end);
    const name = key[1]!.replace(/^(["'])(.*)\1$/, '$2');
    if (this.offset <= from + key[1]!.length) {
      this.enter(from - this.at);
      return this.written('key', from, '');
    }
    const level = this.enter(from - this.at);
    level.key = name;
    const behind = from + key[0].length;
    const start = behind + indentOf(this.text, behind, end);
    level.keys.set(name, this.text.slice(start, end).trim());
    return this.value(start, end, [...level.path, name], from - this.at);
  }

  /** A line without a key: an item, the key that is being written, or more of the value above. */
  private scalarLine(from: number, end: number): Cursor | undefined {
    const indent = from - this.at;
    const top = this.levels.at(-1);
    if (top?.items !== undefined && top.indent < indent)
      return this.value(from, end, [...top.path, top.items], top.indent, 'item');
    const owner = this.owner(indent - 1);
    const isOpening = /[{["']/.test(this.text[from]!);
    if (owner?.key !== undefined && isOpening) return this.value(from, end, [...owner.path, owner.key], owner.indent);
    if (this.offset > end) {
      this.at = end + 1;
      return undefined;
    }
    const isMore = owner?.key !== undefined && (owner.keys.get(owner.key) ?? '') !== '';
    if (isMore) return this.written('value', from, '', [...owner.path, owner.key!]);
    this.enter(indent);
    return this.written('key', from, '');
  }

  /** A value that begins at a place of a line. */
  private value(
    start: number,
    end: number,
    path: readonly PathKey[],
    indent: number,
    role: 'value' | 'item' = 'value',
  ): Cursor | undefined {
    const first = this.text[start];
    if (first === '|' || first === '>') return this.block(end, path, indent);
    if (first === '{' || first === '[' || first === '"' || first === "'") return this.flow(start, end, path, role);
    const comment = this.text.slice(start, end).search(/(^|\s)#/);
    const stop = comment < 0 ? end : start + comment;
    if (this.offset <= end)
      return this.offset > stop + 1 ? this.nowhere() : this.written(role, Math.min(start, this.offset), '', path);
    this.at = end + 1;
    return undefined;
  }

  private flow(start: number, end: number, path: readonly PathKey[], role: 'value' | 'item'): Cursor | undefined {
    const flow = new FlowScan(this.text, start, this.offset, path);
    const stop = flow.run();
    if (stop === undefined) {
      const { role: inner, path: way, from, quote, closers, around } = flow.cursor(role);
      return this.written(inner, from, quote, way, closers, around);
    }
    const rest = lineEnd(this.text, stop);
    if (this.offset <= Math.max(rest, end)) return this.nowhere();
    this.at = rest + 1;
    return undefined;
  }

  /** Lines of a text that is written as they are. */
  private block(end: number, path: readonly PathKey[], indent: number): Cursor | undefined {
    let start: number | undefined;
    for (let at = end + 1; at <= this.text.length;) {
      const stop = lineEnd(this.text, at);
      const own = indentOf(this.text, at, stop);
      if (at + own < stop && own <= indent) {
        if (this.offset < at) break;
        this.at = at;
        return undefined;
      }
      if (own > indent) start ??= at + own;
      if (this.offset <= stop) break;
      at = stop + 1;
    }
    return this.written('value', Math.min(start ?? this.offset, this.offset), '|', path);
  }

  /** An empty line, or the space before a line: what can begin at that column. */
  private blank(): Cursor {
    const before = this.text.slice(this.at, this.offset);
    if (before.trim() !== '') return this.nowhere();
    const indent = before.length;
    const owner = this.owner(indent);
    if (owner?.items === undefined && owner?.key !== undefined && owner.indent < indent) {
      // Deeper than a key without a value: its mapping begins here.
      if (owner.keys.get(owner.key) !== '') return this.nowhere();
    }
    this.enter(indent);
    return this.written('key', this.offset, '');
  }

  /** Nothing can be said there: a comment, or what follows a closed value. */
  private nowhere(): Cursor {
    return {
      offset: this.offset,
      role: 'value',
      path: ['#'],
      around: [],
      start: this.offset,
      text: '',
      quote: '',
      closers: '',
    };
  }

  private dash(column: number): void {
    const { levels } = this;
    while (levels.length > 0 && levels.at(-1)!.indent > column) levels.pop();
    const top = levels.at(-1);
    if (top?.items !== undefined && top.indent === column) top.items++;
    else levels.push({ indent: column, path: this.below(top), keys: new Map(), items: 0 });
  }

  /** The mapping whose keys are at a column, begun when there is none. */
  private enter(column: number): Level {
    const { levels } = this;
    while (
      levels.length > 0 &&
      (levels.at(-1)!.indent > column || (levels.at(-1)!.items !== undefined && levels.at(-1)!.indent >= column))
    )
      levels.pop();
    const top = levels.at(-1);
    if (top && top.items === undefined && top.indent === column) return top;
    const level: Level = { indent: column, path: this.below(top), keys: new Map() };
    levels.push(level);
    return level;
  }

  private owner(column: number): Level | undefined {
    return this.levels.findLast(({ indent }) => indent <= column);
  }

  private below(top: Level | undefined): readonly PathKey[] {
    if (!top) return [];
    const last = top.items ?? top.key;
    return last === undefined ? top.path : [...top.path, last];
  }

  private written(
    role: Cursor['role'],
    start: number,
    quote: Cursor['quote'],
    path?: readonly PathKey[],
    closers = '',
    inner: readonly Around[] = [],
  ): Cursor {
    this.readRest();
    const top = this.levels.at(-1);
    const around = [
      ...this.levels.map((level): Around => ({
        path: level.path,
        keys: level.keys,
        column: level.items === undefined ? level.indent : undefined,
      })),
      ...inner,
    ];
    const own = role === 'item' ? this.below(top) : (top?.path ?? []);
    const text = this.text.slice(start, this.offset);
    return { offset: this.offset, role, path: path ?? own, around, start, text, quote, closers };
  }

  /** The keys of the innermost mapping that stand behind the cursor. */
  private readRest(): void {
    const top = this.levels.at(-1);
    if (!top || top.items !== undefined) return;
    for (let at = lineEnd(this.text, this.offset) + 1; at < this.text.length;) {
      const end = lineEnd(this.text, at);
      const indent = indentOf(this.text, at, end);
      const isBlank = at + indent === end;
      if (!isBlank && indent < top.indent) return;
      const key = indent === top.indent ? KEY.exec(this.text.slice(at + indent, end)) : null;
      if (!isBlank && indent === top.indent && !key) return;
      if (key) top.keys.set(key[1]!, this.text.slice(at + indent + key[0].length, end).trim());
      at = end + 1;
    }
  }
}

function lineEnd(text: string, from: number): number {
  const end = text.indexOf('\n', from);
  return end < 0 ? text.length : end;
}

function indentOf(text: string, from: number, end: number): number {
  let at = from;
  while (at < end && text[at] === ' ') at++;
  return at - from;
}
