import type { Editing } from './completion.ts';
import { holdsOf } from './fields.ts';

/** An expression that is being written: its text up to the cursor, and where it begins in the file. */
type ExpressionText = Readonly<{ text: string; start: number; isPlaceholder: boolean }>;

/** The expression at the cursor: the whole value, what follows `in` of a loop, or what is in a placeholder. */
export function expressionAt({ cursor, schemas }: Pick<Editing, 'cursor' | 'schemas'>): ExpressionText | undefined {
  const holds = holdsOf(schemas);
  if (cursor.role === 'key') return undefined;
  const { text, start } = cursor;
  if (holds.has('each-head')) {
    const head = /^\s*\S+\s+in\s+/.exec(text);
    return head ? { text: text.slice(head[0].length), start: start + head[0].length, isPlaceholder: false } : undefined;
  }
  if (holds.has('expression')) return { text, start, isPlaceholder: false };
  if (!holds.has('placeholders') && !holds.has('request-line') && !holds.has('file')) return undefined;
  const open = openBrace(text);
  if (open === undefined) return undefined;
  // An operator of RFC 6570 and the names before belong to no expression.
  const begin = holds.has('request-line')
    ? open + 1 + (/^[?&/+#;]?(?:[\w.]+,)*/.exec(text.slice(open + 1))?.[0].length ?? 0)
    : open + 1;
  return { text: text.slice(begin), start: start + begin, isPlaceholder: true };
}

/** The last brace of a text that is open; doubled ones are characters. */
function openBrace(text: string): number | undefined {
  let open: number | undefined;
  for (let at = 0; at < text.length; at++) {
    if (open === undefined && text[at] === '{') {
      if (text[at + 1] === '{') at++;
      else open = at;
    } else if (open !== undefined && text[at] === '}') open = undefined;
  }
  return open;
}
