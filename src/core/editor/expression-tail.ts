import { parseExpression } from '../expression/parse.ts';
import type { Node } from '../expression/model.ts';
import { findFunction } from '../expression/functions/list.ts';

/** What an expression is at its end, where the cursor is. */
export type Tail = Readonly<{
  /** The name or member that is being written. */
  word: string;
  /** What a member is written behind: `due[0]` of `due[0].ve`; nothing where a name is being written. */
  base: Node | undefined;
  /** Expressions whose items `@` stands for, from the innermost. */
  items: readonly Node[];
}>;

const WORD = /[A-Za-z_0-9]*$/;

/** Reads the end of an expression that is being written; `undefined` inside of quotes, where nothing is completed. */
export function tailOf(text: string): Tail | undefined {
  const open = openIn(text);
  if (!open) return undefined;
  const word = WORD.exec(text)![0];
  const before = text.length - word.length;
  const dot = text[before - 1] === '.' && !/[0-9]/.test(text[before - 2] ?? '');
  const from = dot ? operandStart(text, before - 1) : before;
  const base = dot ? parseExpression(text.slice(from, before - 1).replace(/\.$/, '')).tree : undefined;
  if (dot && !base) return undefined;
  const items = open.toReversed().flatMap((each) => listOf(text, each));
  return { word, base, items };
}

type Open = { sign: string; at: number; name: string | undefined; commas: number; firstComma: number | undefined };

/** The brackets that are open at the end; `undefined` when a quote is. */
function openIn(text: string): readonly Open[] | undefined {
  const open: Open[] = [];
  for (let at = 0; at < text.length; at++) {
    const sign = text[at]!;
    if (sign === "'" || sign === '"') {
      const end = endOfQuotes(text, at);
      if (end === undefined) return undefined;
      at = end;
    } else if (sign === '(' || sign === '[') {
      const name = sign === '(' ? /([A-Za-z_]\w*)$/.exec(text.slice(0, at))?.[1] : undefined;
      open.push({ sign, at, name, commas: 0, firstComma: undefined });
    } else if (sign === ')' || sign === ']') open.pop();
    else if (sign === ',') countComma(open.at(-1), at);
  }
  return open;
}

function countComma(open: Open | undefined, at: number): void {
  if (!open) return;
  open.commas++;
  open.firstComma ??= at;
}

function endOfQuotes(text: string, from: number): number | undefined {
  for (let at = from + 1; at < text.length; at++) {
    if (text[at] === '\\') at++;
    else if (text[at] === text[from]) return at;
  }
  return undefined;
}

/** The list over which an open filter, or a function with an expression for each item, goes. */
function listOf(text: string, { sign, at, name, commas, firstComma }: Open): readonly Node[] {
  if (sign === '[' && text[at + 1] === '?') {
    const { tree } = parseExpression(text.slice(operandStart(text, at), at));
    return tree ? [tree] : [];
  }
  const parameter = name === undefined ? undefined : findFunction(name)?.parameters[commas];
  if (firstComma === undefined || (parameter?.sort !== 'item' && parameter?.sort !== 'itemCondition')) return [];
  const { tree } = parseExpression(text.slice(at + 1, firstComma));
  return tree ? [tree] : [];
}

/** Where the path or call begins that ends at an offset. */
function operandStart(text: string, end: number): number {
  let at = end;
  while (at > 0) {
    const sign = text[at - 1]!;
    if (sign === ']' || sign === ')') at = openOf(text, at - 1);
    else if (/[\w$@.]/.test(sign)) at--;
    else break;
  }
  return at;
}

/** The bracket that one closes, quotes passed over. */
function openOf(text: string, close: number): number {
  let depth = 0;
  for (let at = close; at >= 0; at--) {
    const sign = text[at]!;
    if (sign === "'" || sign === '"') {
      at = text.lastIndexOf(sign, at - 1);
      if (at < 0) return 0;
    } else if (sign === ']' || sign === ')') depth++;
    else if ((sign === '[' || sign === '(') && --depth === 0) return at;
  }
  return 0;
}
