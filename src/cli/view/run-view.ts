import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { explainFailure } from '../../core/report/failure.ts';
import { History, stepName, stepNumber, storedBriefly } from '../../core/report/history.ts';
import { counted } from '../../core/value/show.ts';
import { showFailure } from './failure.ts';
import type { Palette } from './palette.ts';
import { cut, padded, paddedLeft, sized, spent, visible } from './text.ts';

export type RunViewOptions = Readonly<{
  write(text: string): void;
  palette: Palette;
  columns: number;
  /** Columns for the names of steps: the longest of the chain, within reason. */
  nameWidth: number;
  quiet: boolean;
}>;

/** Columns that are left at the end of a line for what a call kept. */
const KEPT_WIDTH = 22;

/** Kinds of steps whose line was written before they ended. */
const SAID_ALREADY: ReadonlySet<string> = new Set(['say']);

/** The terminal view of a run: a pure reader of its events, one line a call as it ends. */
export class RunView {
  private readonly history = new History();
  private readonly requests = new Map<number, EventOf<'sent'>>();
  private readonly answers = new Map<number, EventOf<'answered'>>();
  private readonly failures: string[] = [];
  private readonly files: EventOf<'file'>[] = [];
  private run: EventOf<'run'> | undefined;

  constructor(private readonly options: RunViewOptions) {}

  readonly listen = (event: JournalEvent): void => {
    this.history.add(event);
    switch (event.type) {
      case 'run':
        this.run = event;
        this.line(this.heading(event));
        break;
      case 'sent':
        this.requests.set(event.x, event);
        break;
      case 'answered':
        this.answers.set(event.x, event);
        break;
      case 'said':
        this.line(` ${padded(stepNumber(event.step), 5)} ${visible(event.text)}`);
        break;
      case 'opened':
        this.line(this.plainLine(event.step, `${event.text ?? ''}: ${event.branch === 'otherwise' ? 'no' : 'yes'}`));
        break;
      case 'file':
        this.files.push(event);
        break;
      case 'note':
        this.line(`       ${this.options.palette.warning(`${event.level} ${event.code}`)}: ${visible(event.message)}`);
        break;
      case 'ended':
        this.ended(event);
        break;
      case 'finished':
        this.finished(event);
        break;
      default:
    }
  };

  private heading({ name, apis, run }: EventOf<'run'>): string {
    const { palette } = this.options;
    const where = apis
      .map((api) => (api.deployment === null ? api.name : `${api.name} at ${api.deployment}`))
      .join(', ');
    return [palette.strong(name), where, palette.quiet(`run ${run}`)].filter((part) => part !== '').join('   ');
  }

  /** A line for the step, and what there is to say of its failure for the end. */
  private ended(event: EventOf<'ended'>): void {
    // What it said stands there already.
    if (SAID_ALREADY.has(event.kind) && event.outcome === 'held') return;
    if (event.kind === 'if' && event.problem === undefined) return;
    if (event.outcome === 'skipped')
      this.line(this.options.palette.quiet(this.plainLine(event.step, `skipped: ${event.why ?? ''}`)));
    else if (event.kind === 'call') this.endedCall(event);
    else this.endedOther(event);
    const { palette, columns } = this.options;
    if (event.outcome === 'failed')
      this.failures.push(showFailure(explainFailure(event, this.history), palette, columns));
  }

  /** ` 2     let        wanted: 7` */
  private endedOther(event: EventOf<'ended'>): void {
    const { palette } = this.options;
    const failed = event.outcome !== 'held';
    const note = failed
      ? outcomeWord(event)
      : event.kind === 'wait'
        ? spent(event.ms)
        : (event.why ?? boundWords(event));
    this.line(this.plainLine(event.step, note, failed ? palette.bad : undefined));
  }

  /** A step that sends nothing: number, name, and what there is to say of it. */
  private plainLine(step: string, note: string, paint = (text: string) => text): string {
    const { columns, nameWidth } = this.options;
    const head = ` ${padded(stepNumber(step), 5)} ${padded(cut(stepName(step), nameWidth), nameWidth)}  `;
    return `${head}${paint(cut(visible(note), columns - head.length))}`.trimEnd();
  }

  /** ` 1     arrivals   GET /arrivals?day=2026-05-23   200    84 ms   due: 6 items` */
  private endedCall(event: EventOf<'ended'>): void {
    const { palette, columns, nameWidth } = this.options;
    const x = event.x?.at(-1);
    const sent = x === undefined ? undefined : this.requests.get(x);
    const answered = x === undefined ? undefined : this.answers.get(x);
    if (x !== undefined) {
      this.requests.delete(x);
      this.answers.delete(x);
    }
    const failed = event.outcome !== 'held';
    const number = ` ${padded(stepNumber(event.step), 5)} `;
    const kept = boundWords(event);
    const requestWidth = Math.max(16, Math.min(44, columns - number.length - nameWidth - 2 - 6 - 10 - 3 - KEPT_WIDTH));
    const request = padded(cut(sent ? visible(this.requestText(sent)) : '', requestWidth), requestWidth);
    const status = padded(answered ? String(answered.status) : failed ? '-' : '', 4);
    const time = paddedLeft(spent(event.ms), 8);
    const name = padded(cut(stepName(event.step), nameWidth), nameWidth);
    const used = number.length + nameWidth + 2 + requestWidth + 2 + 4 + 1 + 8 + 3;
    const note = cut(visible(failed ? outcomeWord(event) : kept), Math.max(8, columns - used));
    this.line(
      `${number}${name}  ${request}  ${answered && answered.status < 400 ? palette.good(status) : palette.bad(status)} ${palette.quiet(time)}   ${failed ? palette.bad(note) : note}`.trimEnd(),
    );
  }

  private finished({ exit, totals }: EventOf<'finished'>): void {
    const { palette, write } = this.options;
    for (const failure of this.failures) write(`\n${failure}\n`);
    if (this.files.length > 0 && !this.options.quiet) write('\n');
    for (const { path, op, after } of this.files) this.line(`${op}   ${path}   ${palette.quiet(sized(after.size))}`);
    const requests = totals.exchanges === totals.calls ? '' : ` in ${counted(totals.exchanges, 'request')}`;
    const expectations =
      totals.expects === 0 ? 'no expectations' : `${totals.held} of ${counted(totals.expects, 'expectation')} held`;
    const summary = `${counted(totals.calls, 'call')}${requests}, ${expectations}; ${spent(totals.ms)}`;
    const word =
      exit === 0 ? palette.good('passed') : exit === 130 ? palette.warning('interrupted') : palette.bad('failed');
    write(this.options.quiet && exit === 0 ? '' : `\n${word}   ${summary}\n`);
  }

  /** Method and path under the api's own URL; any other URL is shown whole. */
  private requestText({ request, api }: EventOf<'sent'>): string {
    const base = this.run?.apis.find(({ name }) => name === api)?.url;
    const isUnder = base !== undefined && base !== '' && request.url.startsWith(`${base}/`);
    return `${request.method} ${isUnder ? request.url.slice(base.length) : request.url}`;
  }

  private line(text: string): void {
    if (!this.options.quiet) this.options.write(`${text}\n`);
  }
}

/** What a step bound: `due: 6 items, draught: 5.6`. */
function boundWords({ binds = [] }: EventOf<'ended'>): string {
  return binds.map(({ name, value }) => `${name}: ${storedBriefly(value)}`).join(', ');
}

function outcomeWord(event: EventOf<'ended'>): string {
  if (event.outcome === 'cut') return 'interrupted';
  const failed = (event.expects ?? []).filter(({ held }) => !held).length;
  if (failed > 0) return `${failed} of ${event.expects!.length} not held`;
  return event.problem?.code ?? 'failed';
}
