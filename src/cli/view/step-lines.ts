import { isDone } from '../../core/journal/call-end.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { stepName, stepNumber } from '../../core/journal/address.ts';
import { spent } from '../../core/value/show.ts';
import { boundWords, doneBefore, outcomeWord } from './outcome-words.ts';
import type { Palette } from './palette.ts';
import { cut, cutBefore, padded, paddedLeft, wrapped } from './text.ts';
import { visible } from '../../core/value/visible.ts';
import type { Widths } from './widths.ts';

type StepLinesOptions = Readonly<{ widths: Widths; palette: Palette; columns(): number }>;

/** Columns that are left at the end of a line for what a call kept. */
const KEPT_WIDTH = 26;
/** The same in a terminal of fewer than 100 columns, where the request needs them. */
const NARROW_KEPT_WIDTH = 15;
const NARROW = 100;

/** The lines of steps in columns: number, name, and what there is to say of the step. */
export class StepLines {
  /** Columns for numbers of steps; a loop over many items makes them wider. */
  numberWidth: number;
  readonly nameWidth: number;

  constructor(private readonly options: StepLinesOptions) {
    ({ nameWidth: this.nameWidth, numberWidth: this.numberWidth } = options.widths);
  }

  /** Makes room for the numbers of a loop's steps. */
  widen({ step, total = 0 }: EventOf<'opened'>): void {
    this.numberWidth = Math.max(this.numberWidth, `${stepNumber(step)}#${total}.1`.length);
  }

  /** ` 2#5.1 look     `: number and name in columns. */
  private head(step: string): string {
    const { nameWidth } = this;
    return ` ${padded(stepNumber(step), this.numberWidth)} ${padded(cut(stepName(step), nameWidth), nameWidth)}  `;
  }

  /** A step that sends nothing: number, name, and what there is to say of it. */
  plain(step: string, note: string, paint = (text: string) => text): string {
    const head = this.head(step);
    return `${head}${paint(cut(visible(note), this.options.columns() - head.length))}`.trimEnd();
  }

  /** A text beside a number of a step, broken between words. */
  paragraph(number: string, text: string): string {
    const head = ` ${padded(number, this.numberWidth)} `;
    const lines = wrapped(text, Math.max(40, this.options.columns() - head.length));
    return lines.map((line, i) => (i === 0 ? head : ' '.repeat(head.length)) + line).join('\n');
  }

  /** ` 1     arrivals   GET /arrivals?day=2026-05-23   200    84 ms   due: 6 items` */
  call(event: EventOf<'ended'>, requestText: string, answered: number | undefined): string {
    const { palette } = this.options;
    const columns = this.options.columns();
    const failed = !isDone(event);
    const head = this.head(event.step);
    const attempts = event.tries === undefined ? undefined : `${event.tries} attempts`;
    const kept = [doneBefore(event), event.why, attempts, boundWords(event)]
      .filter((part) => part !== undefined && part !== '')
      .join(', ');
    const keptWidth = columns < NARROW ? NARROW_KEPT_WIDTH : KEPT_WIDTH;
    const requestWidth = Math.max(16, Math.min(44, columns - head.length - 6 - 10 - 3 - keptWidth));
    const request = padded(cutBefore(visible(requestText), requestWidth), requestWidth);
    const status = padded(answered !== undefined ? String(answered) : failed ? '-' : '', 4);
    const time = palette.quiet(paddedLeft(spent(event.ms), 8));
    const room = Math.max(8, columns - (head.length + requestWidth + 2 + 4 + 1 + 8 + 3));
    const note = cut(visible(failed ? outcomeWord(event, room) : kept), room);
    const shownStatus = answered !== undefined && answered < 400 ? palette.good(status) : palette.bad(status);
    return `${head}${request}  ${shownStatus} ${time}   ${failed ? palette.bad(note) : note}`.trimEnd();
  }
}
