import type { BodyPlaces, ProblemRecord, Reply } from '../../core/journal/records.ts';
import { counted } from '../../core/value/show.ts';
import { columnsOf } from './columns.ts';
import { REPLY_LABELS, type Failure, type FailureRow, type FailureSection } from '../../core/report/failure.ts';
import { shellQuoted } from '../../core/draft/shell-words.ts';
import type { Palette } from './palette.ts';
import { cut, padded, wrapped, wrappedIndented } from './text.ts';
import { visible } from '../../core/value/visible.ts';

const INDENT = ' '.repeat(8);
const MAX_REPLY_LINES = 20;

/** A failed step in the terminal: what was expected, what was there, where it came from, where to look. */
export function showFailure(failure: Failure, palette: Palette, columns: number, run?: string): string {
  const width = Math.max(40, columns - INDENT.length);
  const place = failure.place ? palette.quiet(`   ${failure.place.file}:${failure.place.line}`) : '';
  return [
    `${palette.bad('failed')}  ${palette.strong(failure.step)}${failure.item === undefined ? '' : `, ${visible(failure.item)}`}${place}`,
    ...failure.sections.flatMap((section, i) => [...(i > 0 ? [''] : []), ...sectionLines(section, palette, width)]),
    ...(failure.tries === undefined ? [] : [INDENT + failure.tries]),
    ...replyLines(failure.reply, palette, width),
    ...(failure.hasExchange ? [`${INDENT}${palette.quiet('details:')} ${lookCommand(failure, run)}`] : []),
  ].join('\n');
}

function sectionLines(section: FailureSection, palette: Palette, width: number): readonly string[] {
  if (section.kind === 'problem')
    return [...problemLines(section.problem, palette, width), ...rowLines(section.rows, palette, width)];
  const heading = wrapped(`${visible(section.heading)}   ${palette.bad(section.verdict)}`, width);
  const remarks = [section.because && `because ${section.because}`, section.why, section.advice]
    .filter((each) => each !== undefined && each !== '')
    .join('. ');
  return [
    ...heading.map((line) => INDENT + line),
    ...(remarks === '' ? [] : wrapped(visible(remarks), width - 2).map((line) => `${INDENT}  ${line}`)),
    ...(section.places ? placeLines(section.places, palette, width - 2).map((line) => `${INDENT}  ${line}`) : []),
    ...rowLines(section.rows, palette, width),
  ];
}

/** Places of a body that are not as expected: the path of each, and below it what is wrong there. */
export function placeLines({ count, first }: BodyPlaces, palette: Palette, width: number): readonly string[] {
  const lines = first.flatMap(({ path, text }) => {
    const [head = '', ...rest] = wrapped(visible(text), Math.max(20, width - 2));
    const isShort = columnsOf(path) + 3 + columnsOf(head) <= width && rest.length === 0;
    if (isShort) return [`${palette.name(visible(path))}   ${head}`];
    return [palette.name(cut(visible(path), width)), ...[head, ...rest].map((line) => `  ${line}`)];
  });
  return count > first.length ? [...lines, `and ${counted(count - first.length, 'more place')}`] : lines;
}

/** Labels in one column, texts in another; a label too long for its column has a line of its own. */
function rowLines(rows: readonly FailureRow[], palette: Palette, width: number): readonly string[] {
  const labelWidth = Math.min(28, Math.max(12, ...rows.map(({ label }) => label.length)) + 2);
  const margin = `${INDENT}  `;
  return rows.flatMap(({ label, text }) => {
    const [first = '', ...rest] = wrapped(visible(text), Math.max(20, width - labelWidth - 2));
    const below = margin + ' '.repeat(labelWidth);
    const isLong = label.length >= labelWidth;
    const head = isLong
      ? [margin + palette.name(cut(label, width)), below + first]
      : [margin + palette.name(padded(label, labelWidth)) + first];
    return [...head, ...rest.map((line) => below + line)];
  });
}

function problemLines(
  { code, message, advice, source, line }: ProblemRecord,
  palette: Palette,
  width: number,
): readonly string[] {
  const lines = wrapped(`${palette.bad(code)}: ${visible(message)}`, width).map((each) => INDENT + each);
  if (source && line !== undefined) {
    const from = source.column - 1;
    const indent = line.length - line.trimStart().length;
    const start = line.length - indent > width - 4 ? Math.max(indent, from - 10) : indent;
    const shown = visible(line.slice(start, start + width - 4).replaceAll('\t', ' '));
    const length = Math.max(1, Math.min(source.length, shown.length - (from - start)));
    lines.push(`${INDENT}  ${shown}`, `${INDENT}  ${' '.repeat(from - start)}${palette.bad('~'.repeat(length))}`);
  }
  if (advice !== undefined) lines.push(...wrapped(visible(advice), width).map((each) => INDENT + each));
  return lines;
}

/** The command that shows the exchange, as it works when it is typed now; `run` is named where the last run is another. */
function lookCommand({ step, items }: Failure, run: string | undefined): string {
  return [
    `batharon look ${shellQuoted(step)}`,
    ...(items === '' ? [] : [`--item ${items}`]),
    ...(run === undefined ? [] : [`--run ${run}`]),
  ].join(' ');
}

function replyLines(reply: Reply | undefined, palette: Palette, width: number): readonly string[] {
  if (!reply) return [];
  const lines = visible(reply.text)
    .split('\n')
    .flatMap((line) => wrappedIndented(line, width - 2))
    .slice(0, MAX_REPLY_LINES);
  return [`${INDENT}${palette.quiet(REPLY_LABELS[reply.part])}`, ...lines.map((line) => `${INDENT}  ${line}`)];
}
