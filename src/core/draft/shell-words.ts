/** Splits a command line as a POSIX shell does: quotes, `$'...'`, backslashes, line continuations. Nothing is expanded. */
export function shellWords(line: string): readonly string[] | { message: string } {
  const words: string[] = [];
  let word: string | undefined;
  let i = 0;
  const add = (text: string): void => void (word = (word ?? '') + text);
  while (i < line.length) {
    const sign = line[i]!;
    if (/\s/.test(sign)) {
      if (word !== undefined) words.push(word);
      word = undefined;
      i++;
    } else if (sign === '\\') {
      const next = line[i + 1] ?? '';
      if (next === '\r' && line[i + 2] === '\n') i += 3;
      else {
        if (next !== '\n') add(next);
        i += 2;
      }
    } else if (sign === "'" || (sign === '$' && line[i + 1] === "'")) {
      const isAnsi = sign === '$';
      const from = i + (isAnsi ? 2 : 1);
      const end = closingQuote(line, from, isAnsi);
      if (end < 0) return { message: 'A single quote is not closed' };
      const inside = line.slice(from, end);
      add(isAnsi ? ansiText(inside) : inside);
      i = end + 1;
    } else if (sign === '"') {
      const quoted = /^"((?:[^"\\]|\\[^])*)"/.exec(line.slice(i));
      if (!quoted) return { message: 'A double quote is not closed' };
      add(quoted[1]!.replace(/\\\r?\n/g, '').replace(/\\([$`"\\])/g, '$1'));
      i += quoted[0].length;
    } else {
      add(sign);
      i++;
    }
  }
  if (word !== undefined) words.push(word);
  return words;
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
