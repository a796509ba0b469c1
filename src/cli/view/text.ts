// By hand: the packages for wrapping and cutting add 25 kB and make a text segmenter when they are loaded, which takes
// half as long as starting Node; `columns.ts` makes one at the first text that needs it.
import { columnsOf } from './columns.ts';

/** Text filled up with blanks to a width in terminal columns. */
export function padded(text: string, width: number): string {
  return text + ' '.repeat(Math.max(0, width - columnsOf(text)));
}

export function paddedLeft(text: string, width: number): string {
  return ' '.repeat(Math.max(0, width - columnsOf(text))) + text;
}

/** Text cut to a width in terminal columns, with … for what is gone. */
export function cut(text: string, width: number): string {
  if (columnsOf(text) <= width) return text;
  if (width <= 0) return '';
  let result = '';
  let used = 0;
  for (const character of text) {
    const wide = columnsOf(character);
    if (used + wide > width - 1) break;
    result += character;
    used += wide;
  }
  return `${result}…`;
}

/**
 * Text cut in its middle: its first word and as much of its end as there is room for, which is what tells the requests
 * of a loop apart: `GET …/berths/N1/reservations`.
 */
export function cutBefore(text: string, width: number): string {
  if (columnsOf(text) <= width) return text;
  const [first = ''] = text.split(' ', 1);
  const room = width - columnsOf(first) - 2;
  if (room < 4) return cut(text, width);
  const end = [...text.slice(first.length + 1)];
  let used = 0;
  let from = end.length;
  while (from > 0 && used + columnsOf(end[from - 1]!) <= room) used += columnsOf(end[--from]!);
  return `${first} …${end.slice(from).join('')}`;
}

/** Text in lines of at most a width, broken at blanks where there are any. */
export function wrapped(text: string, width: number): readonly string[] {
  const lines: string[] = [];
  for (const paragraph of text.split('\n')) {
    let line = '';
    for (const word of paragraph.split(' ').flatMap((each) => pieces(each, width))) {
      if (line !== '' && columnsOf(line) + 1 + columnsOf(word) > width) {
        lines.push(line);
        line = word;
      } else {
        line = line === '' ? word : `${line} ${word}`;
      }
    }
    lines.push(line);
  }
  return lines;
}

/** The same for a line that is indented: what does not fit goes on below it, indented a little more. */
export function wrappedIndented(line: string, width: number): readonly string[] {
  if (columnsOf(line) <= width) return [line];
  const indent = /^ */.exec(line)![0];
  const [first = '', ...rest] = wrapped(line.trimStart(), Math.max(20, width - indent.length - 2));
  return [indent + first, ...rest.map((each) => `${indent}  ${each}`)];
}

/** A word in pieces that fit a width. */
function pieces(word: string, width: number): readonly string[] {
  if (columnsOf(word) <= width) return [word];
  const characters = [...word];
  return Array.from({ length: Math.ceil(characters.length / width) }, (_, i) =>
    characters.slice(i * width, (i + 1) * width).join(''),
  );
}

/** `340 B`, `1.2 kB`, `20 MB`. */
export function sized(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  const [value, unit] = bytes < 1e6 ? [bytes / 1e3, 'kB'] : bytes < 1e9 ? [bytes / 1e6, 'MB'] : [bytes / 1e9, 'GB'];
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${unit}`;
}
