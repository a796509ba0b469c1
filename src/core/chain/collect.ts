import type { Problem } from '../diagnostics/problem.ts';
import { diagnosticAt, sorted, type Diagnostic, type SourceFile } from '../diagnostics/source.ts';
import { withHazards } from '../yaml/hazards.ts';
import type { Reading } from '../yaml/tree.ts';

/** Runs the reading of a file, and gives what it made together with the problems that it reported. */
export function collect<T extends object>(
  file: SourceFile,
  read: (reading: Reading) => T,
): T & Readonly<{ diagnostics: readonly Diagnostic[] }> {
  const problems: Problem[] = [];
  const result = read({ file, report: (problem) => problems.push(problem) });
  return { ...result, diagnostics: sorted(withHazards(file, problems).map((problem) => diagnosticAt(file, problem))) };
}
