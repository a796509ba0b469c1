import { levelOf, type Level } from './catalogue.ts';
import type { Problem, Range } from './problem.ts';

/** A file as it was read: its path as messages show it, and its text. */
export type SourceFile = Readonly<{ path: string; text: string }>;

/** A text that stands in a file: the text itself, and where each stretch of it is there. */
export type Source = Readonly<{
  file: SourceFile;
  text: string;
  /** Maps a range of `text` to the file, exactly or to what holds it. */
  locate(range: Range): Range;
}>;

/** A problem at its place in a file. */
export type Diagnostic = Problem & Readonly<{ file: SourceFile; level: Level }>;

/** Line and column of an offset, both from 1; the column counts UTF-16 units. */
export type Position = Readonly<{ line: number; column: number }>;

export function diagnosticAt(file: SourceFile, problem: Problem): Diagnostic {
  return { ...problem, file, level: levelOf(problem.code) };
}

/** A problem of a text, moved to the text's place in its file. */
export function diagnosticIn(source: Source, problem: Problem): Diagnostic {
  return diagnosticAt(source.file, { ...problem, range: source.locate(problem.range) });
}

/** The range of a whole text. */
export function wholeOf(source: Source): Range {
  return [0, source.text.length];
}

export function positionOf(text: string, offset: number): Position {
  const before = text.lastIndexOf('\n', offset - 1);
  let line = 1;
  for (let at = text.indexOf('\n'); at >= 0 && at < offset; at = text.indexOf('\n', at + 1)) line++;
  return { line, column: offset - before };
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
