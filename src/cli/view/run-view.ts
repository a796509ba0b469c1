import { FewMap } from '../../core/few-map.ts';
import { isDone } from '../../core/journal/call-records.ts';
import { isFact } from '../../core/journal/recorder.ts';
import type { EventOf, JournalEvent, ToldEvent, TransientBody } from '../../core/journal/events.ts';
import type { ExchangeRecord } from '../../core/report/exchange.ts';
import { explainFailure } from '../../core/report/failure.ts';
import { History, loopOf, stepName, stepNumber } from '../../core/report/history.ts';
import type { RunSource } from '../../core/report/told-run.ts';
import { counted, grouped, spent } from '../../core/value/show.ts';
import { showFailure } from './failure.ts';
import { LiveLine } from './live-line.ts';
import { bar, groupLines, Loops, progressWords } from './loops.ts';
import { AS_WANTED, boundWords, doneBefore, outcomeWord, pausedWords } from './outcome-words.ts';
import { goOnWords, waitedWords, waitWords } from './waits.ts';
import type { Palette } from './palette.ts';
import { cut, padded, paddedLeft, sized, visible } from './text.ts';

export type RunViewOptions = Readonly<{
  write(text: string): void;
  palette: Palette;
  columns: number;
  /** Columns for the names of steps: the longest of the chain, within reason. */
  nameWidth: number;
  quiet: boolean;
  /** Whether lines may move: a terminal. */
  moves: boolean;
  /** Columns of the terminal as it is now. */
  columnsNow(): number;
}>;

/** Columns that are left at the end of a line for what a call kept. */
const KEPT_WIDTH = 22;

/** Failures that are kept for the end; of more there is the journal. */
const MAX_FAILURES = 200;
/** Failures of a loop that have a line of their own. */
const MAX_LINES = 5;

type Shown = Readonly<{ sent: ExchangeRecord['sent'] | undefined; answered: ExchangeRecord['answered'] }>;

const NO_EXCHANGE: Shown = { sent: undefined, answered: undefined };

type KeptFailure = Readonly<{ text: string; step: string; loop: string | undefined; item: number | undefined }>;

/** Kinds of steps whose end says nothing that was not said. */
const SILENT_ENDS: ReadonlySet<string> = new Set(['if', 'item', 'together']);

/** Kinds of steps whose line was written before they ended. */
const SAID_ALREADY: ReadonlySet<string> = new Set(['say']);

/** The terminal view of a run: a pure reader of its events, one line a call as it ends. */
export class RunView {
  private readonly history = new History();
  private readonly requests = new FewMap<number, EventOf<'sent'>>();
  private readonly answers = new FewMap<number, EventOf<'answered'>>();
  private readonly failures: KeptFailure[] = [];
  private readonly loops = new Loops();
  private readonly live: LiveLine | undefined;
  private readonly files: EventOf<'file'>[] = [];
  private run: EventOf<'run'> | undefined;
  /** What was recorded before the run went on. */
  private before: RunSource | undefined;
  /** Steps that wait at the moment, and the last look of those that poll. */
  private readonly waiting = new Map<string, Extract<TransientBody, { type: 'waiting' }>>();
  private readonly looked = new Map<string, EventOf<'looked'>>();

  constructor(private readonly options: RunViewOptions) {
    if (options.moves && !options.quiet) this.live = new LiveLine(options.write);
  }

  readonly listen = (event: ToldEvent): void => {
    if (!isFact(event)) return this.underWay(event);
    this.history.add(event);
    this.loops.add(event);
    this.progress(event);
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
        this.opened(event);
        break;
      case 'file':
        // That rows begin to be put behind what is there is said when they are.
        if (!event.before) this.files.push(event);
        break;
      case 'note':
        this.line(`       ${this.options.palette.warning(`${event.level} ${event.code}`)}: ${visible(event.message)}`);
        break;
      case 'ended':
        this.ended(event);
        break;
      case 'looked':
        this.looked.set(event.step, event);
        break;
      case 'finished':
      case 'paused':
        this.finished(event);
        break;
      default:
    }
  };

  /** Shows that a run goes on, from what was recorded of it. */
  goOn(before: RunSource | undefined, heading: string): void {
    if (before) this.know(before);
    if (this.run) this.line(this.heading(this.run));
    this.line(this.options.palette.quiet(heading));
  }

  /** Takes in what was recorded before, without showing it. */
  know(before: RunSource): void {
    for (const event of before.events) {
      this.history.add(event);
      if (event.type === 'run') this.run = event;
    }
    this.before = before;
  }

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
    if (SAID_ALREADY.has(event.kind) && isDone(event)) return;
    if (SILENT_ENDS.has(event.kind) && event.problem === undefined) return;
    if (event.kind === 'each') this.keepGroups(event);
    // Of what a loop does only its failures are told; the loop's own line says how many held.
    if (this.loops.around(event.step) && event.outcome !== 'failed') return this.forget(event);
    if (event.outcome === 'skipped')
      this.line(this.options.palette.quiet(this.plainLine(event.step, `skipped: ${event.why ?? ''}`)));
    else if (!this.isOneTooMany(event)) {
      if (event.kind === 'call') this.endedCall(event);
      else this.endedOther(event);
    } else this.forget(event);
    const { palette, columns } = this.options;
    if (event.outcome !== 'failed' || (event.kind === 'each' && !event.problem)) return;
    if (this.failures.length >= MAX_FAILURES) return;
    const text = showFailure(explainFailure(event, this.history), palette, columns);
    this.failures.push({ text, step: stepName(event.step), loop: loopOf(event.step), item: event.item?.number });
  }

  /** Of the failures of a loop only the first few have a line of their own; all are counted. */
  private isOneTooMany({ step }: EventOf<'ended'>): boolean {
    const loop = this.loops.around(step);
    return loop !== undefined && loop.failed > MAX_LINES;
  }

  /** Of many failures that are alike one is shown, with what the others have in common with it. */
  private keepGroups({ step, groups = [] }: EventOf<'ended'>): void {
    if (groups.length === 0) return;
    const loop = stepNumber(step);
    const own = this.failures.filter((each) => each.loop === loop);
    const kept = groups.flatMap((group) => {
      const first =
        own.find((each) => each.item === group.first && each.step === group.step) ??
        own.find((each) => each.step === group.step);
      const lines = groupLines(group).map((line) => `        ${this.options.palette.warning(visible(line))}`);
      return first ? [{ ...first, text: [first.text, ...lines].join('\n') }] : [];
    });
    const others = this.failures.filter((each) => each.loop !== loop);
    this.failures.splice(0, this.failures.length, ...others, ...kept);
  }

  /** A request that was shown while it went on, or one of before. */
  private exchange(x: number): Shown {
    const [sent, answered] = [this.requests.get(x), this.answers.get(x)];
    this.requests.delete(x);
    this.answers.delete(x);
    return sent ? { sent, answered } : (this.before?.exchange(x) ?? NO_EXCHANGE);
  }

  private forget({ x = [] }: EventOf<'ended'>): void {
    for (const each of x) {
      this.requests.delete(each);
      this.answers.delete(each);
    }
  }

  /** A branch says which way it goes, another chain its name; loops and rounds are told when they end. */
  private opened({ kind, step, text = '', branch }: EventOf<'opened'>): void {
    if (this.loops.around(step)) return;
    if (kind === 'if') this.line(this.plainLine(step, `${text}: ${branch === 'otherwise' ? 'no' : 'yes'}`));
    if (kind === 'chain') this.line(this.plainLine(step, text));
  }

  /** How far the outermost loop is: on a terminal in a line that moves, elsewhere in a line now and then. */
  private progress(event: JournalEvent): void {
    if (event.type !== 'ended' && event.type !== 'opened') return;
    const { palette } = this.options;
    if (!this.live) {
      const due = this.loops.due(event);
      if (due) this.line(palette.quiet(this.plainLine(due.opened.step, progressWords(due, event.at))));
      return;
    }
    this.redraw(event.at);
  }

  /** The line that moves: how far the outermost loop is, and what is waited for. */
  private redraw(now: number): void {
    if (!this.live) return;
    if (!this.loops.outermost() && this.waiting.size === 0) return this.live.end();
    this.live.set(() => this.movingLine(now));
  }

  private movingLine(now: number): string {
    const { columns, nameWidth, columnsNow } = this.options;
    const loop = this.loops.outermost();
    const [step, waiting] = this.waiting.entries().next().value ?? [];
    if (!loop && step === undefined) return '';
    const width = Math.max(8, Math.min(30, columns - nameWidth - 50));
    const words = waiting ? waitWords(waiting, this.looked.get(waiting.step), loop ? 0 : width, now) : '';
    const line = loop
      ? this.plainLine(
          loop.opened.step,
          [cut(this.loopHead(loop.opened.step), 24), bar(loop, width), progressWords(loop, now), words]
            .filter((part) => part !== '')
            .join('  '),
        )
      : this.plainLine(step!, words);
    // The window may have become narrower since.
    return cut(line, columnsNow() - 1);
  }

  /** ` 2     let        wanted: 7` */
  private endedOther(event: EventOf<'ended'>): void {
    const { palette } = this.options;
    const failed = !isDone(event);
    const note = failed && event.kind !== 'each' ? outcomeWord(event) : this.heldWords(event);
    if (note === '' && event.kind === 'chain') return;
    this.line(this.plainLine(event.step, note, failed ? palette.bad : undefined));
  }

  /** What there is to say of a step that sends nothing itself. */
  private heldWords(event: EventOf<'ended'>): string {
    const bound = boundWords(event);
    switch (event.kind) {
      case 'each':
        return [this.loopHead(event.step), event.why, bound]
          .filter((part) => part !== undefined && part !== '')
          .join('   ');
      case 'chain':
        // It has said its name when it began.
        return bound;
      case 'wait':
        return spent(event.ms);
      default:
        return [event.why, bound].filter((part) => part !== undefined && part !== '').join('   ');
    }
  }

  /** `vessel in due`. */
  private loopHead(step: string): string {
    return this.history.loopText(stepNumber(step)).replace(/^each /, '');
  }

  /** ` 2#5.1 look     `: number and name in columns; a long number takes from the blanks behind the name. */
  private headOf(step: string): string {
    const { nameWidth } = this.options;
    return padded(` ${padded(stepNumber(step), 5)} ${cut(stepName(step), nameWidth)}`, nameWidth + 7);
  }

  /** A step that sends nothing: number, name, and what there is to say of it. */
  private plainLine(step: string, note: string, paint = (text: string) => text): string {
    const { columns } = this.options;
    const head = `${this.headOf(step)}  `;
    return `${head}${paint(cut(visible(note), columns - head.length))}`.trimEnd();
  }

  /** ` 1     arrivals   GET /arrivals?day=2026-05-23   200    84 ms   due: 6 items` */
  private endedCall(event: EventOf<'ended'>): void {
    const { palette, columns } = this.options;
    const x = event.why === undefined ? event.x?.at(-1) : event.x?.[0];
    const { sent, answered } = x === undefined ? NO_EXCHANGE : this.exchange(x);
    const failed = !isDone(event);
    const head = this.headOf(event.step);
    const tries = event.tries === undefined ? undefined : `${event.tries} tries`;
    const kept = [doneBefore(event), event.why, tries, boundWords(event)]
      .filter((part) => part !== undefined && part !== '')
      .join(', ');
    const requestWidth = Math.max(16, Math.min(44, columns - head.length - 2 - 6 - 10 - 3 - KEPT_WIDTH));
    const request = padded(cut(sent ? visible(this.requestText(sent)) : '', requestWidth), requestWidth);
    const status = padded(answered ? String(answered.status) : failed ? '-' : '', 4);
    const time = paddedLeft(spent(event.ms), 8);
    const used = head.length + 2 + requestWidth + 2 + 4 + 1 + 8 + 3;
    const note = cut(visible(failed ? outcomeWord(event) : kept), Math.max(8, columns - used));
    this.line(
      `${head}  ${request}  ${answered && answered.status < 400 ? palette.good(status) : palette.bad(status)} ${palette.quiet(time)}   ${failed ? palette.bad(note) : note}`.trimEnd(),
    );
  }

  /** What is waited for now, in the line that moves; that a run is about to stop, in a line of its own. */
  private underWay(event: TransientBody & { at: number }): void {
    const { palette } = this.options;
    if (event.type === 'pausing') {
      if (AS_WANTED.has(event.why)) return;
      const what = event.why === 'interrupt' ? 'interrupted' : 'pausing';
      const note = `${what}: nothing more is sent, and what is in flight may end; once more stops at once`;
      this.line(palette.warning(`       ${note}`));
      return;
    }
    if (event.why === undefined) this.waiting.delete(event.step);
    else this.waiting.set(event.step, event);
    this.redraw(event.at);
  }

  private finished(ended: EventOf<'finished' | 'paused'>): void {
    const { exit, totals } = ended;
    const { palette, write } = this.options;
    this.live?.end();
    for (const { text } of this.failures) write(`\n${text}\n`);
    if (this.files.length > 0 && !this.options.quiet) write('\n');
    for (const { path, op, after, rows } of this.files) {
      const count = rows === undefined ? '' : `${counted(rows, 'row')}   `;
      this.line(`${op}   ${path}   ${count}${palette.quiet(sized(after.size))}`);
    }
    const requests = totals.exchanges === totals.calls ? '' : ` in ${counted(totals.exchanges, 'request')}`;
    const expectations =
      totals.expects === 0
        ? 'no expectations'
        : `${grouped(totals.held)} of ${counted(totals.expects, 'expectation')} held`;
    const summary = `${counted(totals.calls, 'call')}${requests}, ${expectations}; ${spent(totals.ms)}${waitedWords(totals)}`;
    const outcome = exit === 0 ? palette.good('passed') : palette.bad('failed');
    const word = ended.type === 'finished' ? outcome : pausedWords(ended, outcome, palette);
    write(this.options.quiet && exit === 0 ? '' : `\n${word}   ${summary}\n`);
    if (totals.retried > 0)
      this.line(palette.warning(`${counted(totals.retried, 'call')} passed only after more than one try`));
    // Notes are not shown then, and this one says what is wrong.
    if (ended.type !== 'paused' || ended.why === 'only' || ended.why === 'watch') return;
    if (this.options.quiet && ended.detail !== undefined && ended.why !== 'to')
      write(`${visible(ended.why === 'quota' ? `${ended.detail} is used up` : ended.detail)}\n`);
    write(`${goOnWords(ended, this.run?.run ?? '')}\n`);
  }

  /** Method and path under the api's own URL; any other URL is shown whole. */
  private requestText({ request, api }: EventOf<'sent'>): string {
    const base = this.run?.apis.find(({ name }) => name === api)?.url;
    const isUnder = base !== undefined && base !== '' && request.url.startsWith(`${base}/`);
    return `${request.method} ${isUnder ? request.url.slice(base.length) : request.url}`;
  }

  private line(text: string): void {
    if (this.options.quiet) return;
    if (this.live) this.live.above(`${text}\n`);
    else this.options.write(`${text}\n`);
  }
}
