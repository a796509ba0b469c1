import type { PlaceRef, ProblemRecord } from '../journal/records.ts';
import type { Code } from '../diagnostics/catalogue.ts';
import type { Range } from '../diagnostics/problem.ts';
import { diagnosticIn, lineOf, positionOf, wholeOf, type Diagnostic, type Source } from '../diagnostics/source.ts';

const places = new WeakMap<Source, PlaceRef>();

/** Where a whole text stands, as the journal says it; worked out once for each text. */
export function placeOf(source: Source): PlaceRef {
  let place = places.get(source);
  if (!place) places.set(source, (place = placeIn(source, wholeOf(source))));
  return place;
}

function placeIn(source: Source, range: Range): PlaceRef {
  const [from, to] = source.locate(range);
  return { file: source.file.path, ...positionOf(source.file, from), length: to - from };
}

/** A diagnostic as the journal holds it, with its source line, so that it can be shown when the file has changed. */
export function problemRecord({ code, message, advice, file, range }: Diagnostic): ProblemRecord {
  const { line, column } = positionOf(file, range[0]);
  const source: PlaceRef = { file: file.path, line, column, length: range[1] - range[0] };
  return { code, message, ...(advice === undefined ? {} : { advice }), source, line: lineOf(file, line) };
}

/** A problem of a whole text of a file. */
export function problemAt(source: Source, code: Code, message: string, advice?: string): ProblemRecord {
  return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message, ...(advice ? { advice } : {}) }));
}

/** A file that a chosen name would replace. */
export function fileExists(source: Source, path: string): ProblemRecord {
  const message = `${path} exists, and a name with a placeholder replaces no file`;
  return problemAt(source, 'file-exists', message, 'Move it away, or allow it with replace: true.');
}
