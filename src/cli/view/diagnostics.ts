import { cutFrame, frameOfDiagnostic } from '../../core/diagnostics/frame.ts';
import { correctedLine } from '../../core/diagnostics/fix.ts';
import type { Diagnostic } from '../../core/diagnostics/source.ts';
import { counted } from '../../core/value/show.ts';
import type { Palette } from './palette.ts';
import { cut, wrapped } from './text.ts';
import { visible } from '../../core/value/visible.ts';

const MAX_SHOWN = 50;

/** A diagnostic: what is wrong, where, the line with its part underlined, what to do. */
export function showDiagnostic(diagnostic: Diagnostic, palette: Palette, columns: number): string {
  const { level, code, message, list = [], advice } = diagnostic;
  const paint = level === 'error' ? palette.bad : palette.warning;
  const frame = cutFrame(frameOfDiagnostic(diagnostic), Math.max(40, columns - 10));
  const corrected = correctedLine(diagnostic);
  const gutter = String(frame.lineNumber).padStart(5);
  const line = visible(frame.line.replaceAll('\t', ' '));
  const underline = ' '.repeat(frame.from) + paint('~'.repeat(Math.max(1, frame.to - frame.from)));
  return [
    `${paint(`${level} ${code}`)}: ${visible(message)}`,
    `  ${palette.quiet(frame.place)}`,
    `${palette.quiet(`${gutter} |`)} ${line}`,
    `${palette.quiet('      |')} ${underline}`,
    ...list.map((each) => `        ${cut(visible(each), Math.max(40, columns - 8))}`),
    ...(corrected === undefined ? [] : [`${palette.good(`${gutter} >`)} ${visible(corrected.replaceAll('\t', ' '))}`]),
    ...(advice === undefined
      ? []
      : wrapped(visible(advice), Math.max(40, columns - 8)).map((each) => `        ${each}`)),
  ].join('\n');
}

/** All diagnostics, and how many there are; beyond fifty only their number. */
export function showDiagnostics(diagnostics: readonly Diagnostic[], palette: Palette, columns: number): string {
  const shown = diagnostics.slice(0, MAX_SHOWN).map((each) => showDiagnostic(each, palette, columns));
  const rest = diagnostics.length - shown.length;
  if (rest > 0) shown.push(`and ${rest} more`);
  return `${shown.join('\n\n')}\n`;
}

/** `2 errors and 1 warning`. */
export function tally(diagnostics: readonly Diagnostic[]): string {
  const errors = diagnostics.filter(({ level }) => level === 'error').length;
  const warnings = diagnostics.length - errors;
  return [errors > 0 && counted(errors, 'error'), warnings > 0 && counted(warnings, 'warning')]
    .filter(Boolean)
    .join(' and ');
}
