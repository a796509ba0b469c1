import { levelOf, type Level } from './catalogue.ts';
import type { Edit, Problem, Range } from './problem.ts';

/** A file as it was read: its path as messages show it, and its text. */
export type SourceFile = Readonly<{ path: string; text: string }>;

/** A text that stands in a file: the text itself, and where each stretch of it is there. */
export type Source = Readonly<{
  file: SourceFile;
  text: string;
  /** Maps a range of `text` to the file, exactly or to what holds it. */
  locate(range: Range): Range;
  /** How a stretch of `text` is replaced in the file, with the quotes that the file needs; absent where that is not known. */
  replace?(range: Range, by: string): Edit;
}>;

/** A problem at its place in a file. */
export type Diagnostic = Omit<Problem, 'level'> &
  Readonly<{
    file: SourceFile;
    level: Level;
    /** The problem's fix as an edit of the file. */
    edit?: Edit;
  }>;

/** Line and column of an offset, both from 1; the column counts UTF-16 units. */
type Position = Readonly<{ line: number; column: number }>;

export function diagnosticAt(file: SourceFile, problem: Problem): Diagnostic {
  const { fix } = problem;
  return {
    ...problem,
    file,
    level: problem.level ?? levelOf(problem.code),
    ...(fix ? { edit: { range: fix.range, text: fix.text } } : {}),
  };
}

/** A problem of a text, moved to the text's place in its file. */
export function diagnosticIn(source: Source, problem: Problem): Diagnostic {
  return diagnosticAt(source.file, inFile(source, problem));
}

/** The same problem in offsets of the file that the text stands in. */
export function inFile(source: Source, { fix, ...problem }: Problem): Problem {
  const edit = fix && source.replace?.(fix.range, fix.text);
  return {
    ...problem,
    range: source.locate(problem.range),
    ...(edit ? { fix: { ...edit, ...(fix.sure ? { sure: true } : {}) } } : {}),
  };
}

/** The range of a whole text. */
export function wholeOf(source: Source): Range {
  return [0, source.text.length];
}

export function positionOf(file: SourceFile, offset: number): Position {
  const starts = lineStartsOf(file);
  let low = 0;
  let high = starts.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle]! <= offset) low = middle;
    else high = middle - 1;
  }
  return { line: low + 1, column: offset - starts[low]! + 1 };
}

/** The text of a line, counted from 1, without its end. */
export function lineOf(file: SourceFile, line: number): string {
  const starts = lineStartsOf(file);
  return file.text.slice(starts[line - 1], starts[line]).replace(/\r?\n$/, '');
}

const lineStarts = new WeakMap<SourceFile, readonly number[]>();

/** Where the lines of a file begin; worked out once for each text. */
export function lineStartsOf(file: SourceFile): readonly number[] {
  let starts = lineStarts.get(file);
  if (!starts) {
    const found = [0];
    for (let at = file.text.indexOf('\n'); at >= 0; at = file.text.indexOf('\n', at + 1)) found.push(at + 1);
    lineStarts.set(file, (starts = found));
  }
  return starts;
}

/** A text that stands in no file, such as an argument of the command line. */
export function looseSource(name: string, text: string): Source {
  return { file: { path: name, text }, text, locate: (range) => range };
}

/** In order of file, then place; the same problem at the same place once. */
export function sorted(diagnostics: readonly Diagnostic[]): readonly Diagnostic[] {
  const seen = new Set<string>();
  return [...diagnostics]
    .sort((a, b) => (a.file.path < b.file.path ? -1 : a.file.path > b.file.path ? 1 : a.range[0] - b.range[0]))
    .filter(({ file, code, range }) => {
      const key = `${file.path} ${code} ${range.join()}`;
      return !seen.has(key) && seen.add(key);
    });
}

export function hasErrors(diagnostics: readonly Diagnostic[]): boolean {
  return diagnostics.some(({ level }) => level === 'error');
}
