import { positionOf, type Diagnostic } from './source.ts';

/** Without what only follows from YAML having eaten part of a line: that line is told once, with its correction. */
export function withoutConsequences(diagnostics: readonly Diagnostic[]): readonly Diagnostic[] {
  const lineOf = ({ file, range }: Diagnostic) => `${file.path}:${positionOf(file, range[0]).line}`;
  const eaten = new Set(diagnostics.filter(({ code }) => code === 'needs-quotes').map(lineOf));
  if (eaten.size === 0) return diagnostics;
  return diagnostics.filter((each) => each.code === 'needs-quotes' || !eaten.has(lineOf(each)));
}
