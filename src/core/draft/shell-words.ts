/** Splits a command line as a POSIX shell does: quotes, `$'...'`, backslashes, line continuations. Nothing is expanded. */
export function shellWords(line: string): readonly string[] | { message: string } {
  const read = shellCommand(line, 0, false);
  return 'message' in read ? read : read.words;
}

/** Signs that end a command where they stand outside of quotes. */
const ENDS = /^(?:\r?\n|;|&&|\|\|?|>|&(?=\s|$))/;

/** The words of the command that begins at a place, and where it ends: at the end of its line, or of the whole text. */
export function shellCommand(
  text: string,
  from: number,
  isOne = true,
): Readonly<{ words: readonly string[]; end: number }> | { message: string } {
  const words: string[] = [];
  let word: string | undefined;
  let i = from;
  while (i < text.length) {
    const isEnd = isOne && ENDS.test(text.slice(i, i + 2));
    if (isEnd) break;
    if (/\s/.test(text[i]!)) {
      if (word !== undefined) words.push(word);
      word = undefined;
      i++;
      continue;
    }
    const piece = pieceAt(text, i);
    if ('message' in piece) return piece;
    i += piece.length;
    if (piece.text !== undefined) word = (word ?? '') + piece.text;
  }
  if (word !== undefined) words.push(word);
  return { words, end: i };
}

/** A piece of a word and the characters that it takes; a line continuation is no text. */
type Piece = Readonly<{ text: string | undefined; length: number }>;

function pieceAt(line: string, i: number): Piece | { message: string } {
  const sign = line[i]!;
  if (sign === '\\') return escapedAt(line, i);
  if (sign === "'") return quotedAt(line, i, 1);
  if (sign === '$' && line[i + 1] === "'") return quotedAt(line, i, 2);
  if (sign === '"') return doubleQuotedAt(line, i);
  return { text: sign, length: 1 };
}

function escapedAt(line: string, i: number): Piece {
  if (line.startsWith('\r\n', i + 1)) return { text: undefined, length: 3 };
  const next = line[i + 1] ?? '';
  return { text: next === '\n' ? undefined : next, length: 2 };
}

/** `'...'`, and `$'...'`, whose opening has two characters. */
function quotedAt(line: string, i: number, opening: 1 | 2): Piece | { message: string } {
  const isAnsi = opening === 2;
  const from = i + opening;
  const end = closingQuote(line, from, isAnsi);
  if (end < 0) return { message: 'A single quote is not closed' };
  const inside = line.slice(from, end);
  return { text: isAnsi ? ansiText(inside) : inside, length: end + 1 - i };
}

function doubleQuotedAt(line: string, i: number): Piece | { message: string } {
  const quoted = /^"((?:[^"\\]|\\[^])*)"/.exec(line.slice(i));
  if (!quoted) return { message: 'A double quote is not closed' };
  const text = quoted[1]!.replace(/\\\r?\n/g, '').replace(/\\([$`"\\])/g, '$1');
  return { text, length: quoted[0].length };
}

function closingQuote(line: string, from: number, withEscapes: boolean): number {
  for (let i = from; i < line.length; i++) {
    if (withEscapes && line[i] === '\\') i++;
    else if (line[i] === "'") return i;
  }
  return -1;
}

const ANSI: Readonly<Record<string, string>> = {
  n: '\n',
  r: '\r',
  t: '\t',
  a: '\u0007',
  b: '\b',
  e: '\u001b',
  f: '\f',
  v: '\v',
  '0': '\0',
};

function ansiText(text: string): string {
  return text.replace(/\\(x[0-9A-Fa-f]{1,2}|u[0-9A-Fa-f]{1,4}|[^])/g, (_, escape: string) =>
    /^[xu]./.test(escape) ? String.fromCharCode(Number.parseInt(escape.slice(1), 16)) : (ANSI[escape] ?? escape),
  );
}

/** A word as a POSIX shell reads it back. */
export function shellQuoted(word: string): string {
  return /^[A-Za-z0-9_@%+=:,./-][A-Za-z0-9_@%+=:,./#-]*$/.test(word) ? word : `'${word.replaceAll("'", `'\\''`)}'`;
}
