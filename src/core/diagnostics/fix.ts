import { lineOf, positionOf, type Diagnostic, type SourceFile } from './source.ts';

/** The line of a diagnostic as it should be; `undefined` when nobody knows, or when it takes more than that line. */
export function correctedLine({ file, edit }: Diagnostic): string | undefined {
  if (!edit) return undefined;
  const from = positionOf(file, edit.range[0]);
  const to = positionOf(file, edit.range[1]);
  if (from.line !== to.line || edit.text.includes('\n')) return undefined;
  const line = lineOf(file, from.line);
  return line.slice(0, from.column - 1) + edit.text + line.slice(to.column - 1);
}

/** The text of a file with all corrections that leave no doubt, and how many there were; overlapping ones but the first wait. */
export function fixed(file: SourceFile, diagnostics: readonly Diagnostic[]): Readonly<{ text: string; count: number }> {
  const edits = diagnostics
    .filter((each) => each.file.path === file.path && each.edit && each.fix?.sure)
    .map(({ edit }) => edit!)
    .sort((a, b) => a.range[0] - b.range[0]);
  let text = '';
  let at = 0;
  let count = 0;
  for (const edit of edits) {
    if (edit.range[0] < at) continue;
    text += file.text.slice(at, edit.range[0]) + edit.text;
    at = edit.range[1];
    count++;
  }
  return { text: text + file.text.slice(at), count };
}
