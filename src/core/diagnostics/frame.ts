import { lineOf, positionOf, type Diagnostic } from './source.ts';

/** A line of a file with a stretch of it underlined, in parts, so that whoever prints it can colour them. */
export type Frame = Readonly<{
  place: string;
  lineNumber: number;
  line: string;
  /** Columns of the stretch, from 0, on that line. */
  from: number;
  to: number;
}>;

/** The line where a problem is. A stretch that goes on behind the line ends with it. */
export function frameOfDiagnostic({ file, range }: Diagnostic): Frame {
  const { line, column } = positionOf(file, range[0]);
  const text = lineOf(file, line);
  const from = column - 1;
  const to = Math.min(Math.max(from + range[1] - range[0], from + 1), Math.max(text.length, from + 1));
  return { place: `${file.path}:${line}:${column}`, lineNumber: line, line: text, from, to };
}

/** A long line cut around its stretch, so that the stretch is seen at any width. */
export function cutFrame(frame: Frame, width: number): Frame {
  if (frame.line.length <= width) return frame;
  const start = Math.max(0, Math.min(frame.from - Math.floor(width / 3), frame.line.length - width));
  const line = `${start > 0 ? '…' : ''}${frame.line.slice(start + (start > 0 ? 1 : 0), start + width - 1)}…`;
  const to = Math.max(Math.min(frame.to - start, width - 1), frame.from - start + 1);
  return { ...frame, line, from: frame.from - start, to };
}
