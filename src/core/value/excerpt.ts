import { writeJson } from './json-write.ts';
import { counted } from './show.ts';
import { isList, isObject, type Value } from './value.ts';

/** Columns that a member takes on one line before it is written over several. */
const MAX_COLUMNS = 68;
/** Characters of a string that are shown; a longer one ends after a word. */
const MAX_STRING = 120;

/**
 * A value as indented JSON in at most so many lines. What does not fit is left out by whole members, and never cut
 * inside a word: `… 12 more members`.
 */
export function excerpt(value: Value, maxLines: number): string {
  return linesOf(value, { left: maxLines }).join('\n');
}

/** Lines that may still be written. */
type Budget = { left: number };

function linesOf(value: Value, budget: Budget): readonly string[] {
  const short = onOneLine(value);
  if (short.length <= MAX_COLUMNS || !(isList(value) || isObject(value))) {
    budget.left--;
    return [short];
  }
  const [open, close, noun] = isList(value) ? ['[', ']', 'item'] : ['{', '}', 'member'];
  const parts: readonly (readonly [label: string, part: Value])[] = isList(value)
    ? value.map((item) => ['', item] as const)
    : Object.entries(value).map(([name, member]) => [`${JSON.stringify(name)}: `, member] as const);
  budget.left -= 2;
  const lines: string[] = [];
  for (const [i, [label, part]] of parts.entries()) {
    const isLast = i === parts.length - 1;
    if (budget.left < (isLast ? 1 : 2)) {
      budget.left--;
      lines.push(`… ${counted(parts.length - i, i === 0 ? noun : `more ${noun}`)}`);
      break;
    }
    const inner = [...linesOf(part, budget)];
    inner[0] = label + inner[0]!;
    if (!isLast) inner.push(`${inner.pop()!},`);
    lines.push(...inner);
  }
  return [open, ...lines.map((line) => `  ${line}`), close];
}

/** Compact JSON with a space after each colon and comma, as it is read most easily on one line. */
function onOneLine(value: Value): string {
  if (typeof value === 'string') return shortened(value);
  if (isList(value)) return value.length === 0 ? '[]' : `[${value.map(onOneLine).join(', ')}]`;
  if (!isObject(value)) return writeJson(value);
  const members = Object.entries(value).map(([name, member]) => `${JSON.stringify(name)}: ${onOneLine(member)}`);
  return members.length === 0 ? '{}' : `{ ${members.join(', ')} }`;
}

function shortened(text: string): string {
  if (text.length <= MAX_STRING) return JSON.stringify(text);
  const words = wholeWords(text, MAX_STRING);
  return words === '' ? `"… ${counted(text.length, 'character')}"` : JSON.stringify(`${words} …`);
}

/** The beginning of a text up to the end of a word; empty when its first word is longer. */
export function wholeWords(text: string, maxLength: number): string {
  if (text.length <= maxLength) return text;
  return /^(.*\S)\s/s.exec(text.slice(0, maxLength + 1))?.[1] ?? '';
}
