import { runHeading } from './run-heading.ts';
import { isDone } from '../../core/journal/call-end.ts';
import { isFact } from '../../core/journal/recorder.ts';
import type { EventOf, JournalEvent, ListenerEvent, TransientBody } from '../../core/journal/events.ts';
import { stepNumber } from '../../core/journal/address.ts';
import { spent } from '../../core/value/show.ts';
import { KnownRun } from './known-run.ts';
import { LiveBlock } from './live-block.ts';
import { Loops, progressWords } from './loops.ts';
import { Attempts } from './attempts.ts';
import { AS_WANTED, outcomeWord } from './outcome-words.ts';
import { StepLines } from './step-lines.ts';
import { summaryOf } from '../../core/report/totals.ts';
import { UnderWay } from './under-way.ts';
import { takenOver } from './shown-exchange.ts';
import { ExchangesUnderWay } from './exchanges-under-way.ts';
import { endTexts } from './run-end.ts';
import { heldWords, isFailure, placeInCall, requestText, saysNothing } from './step-ends.ts';
import type { RunViewOptions } from './run-view-options.ts';
import { cut } from './text.ts';
import { visible } from '../../core/value/visible.ts';

/** Failures of a loop that have a line of their own. */
const MAX_LINES = 5;

/** How a run ended: its figures, and the first failure as the call and the reason. */
export type Outcome = Readonly<{ summary: string; failure: string | undefined }>;

/** The terminal view of a run: a pure reader of its events, one line a call as it ends. */
export class RunView {
  private readonly exchanges = new ExchangesUnderWay();
  private readonly loops = new Loops();
  private readonly live: LiveBlock | undefined;
  private readonly underWay: UnderWay;
  private readonly files: EventOf<'file'>[] = [];
  private readonly attempts = new Attempts();
  /** Failures that are not those of expectations, by code. */
  private readonly others = new Map<string, number>();
  private readonly lines: StepLines;
  private readonly noted = new Set<string>();
  private summary = '';
  private readonly known: KnownRun;

  constructor(private readonly options: RunViewOptions) {
    const { moves, quiet, write, beforeWriting, columns } = options;
    this.known = options.before?.known ?? new KnownRun();
    this.lines = new StepLines(options);
    if (moves && !quiet) this.live = new LiveBlock(write, beforeWriting);
    this.underWay = new UnderWay(this.loops, {
      lines: this.lines,
      columns,
      loopHead: (step) => this.loopHead(step),
      requestText: (sent) => requestText(sent, this.known.run),
    });
  }

  readonly listen = (event: ListenerEvent): void => {
    if (this.live) this.underWay.add(event);
    if (!isFact(event)) {
      this.move();
      if (event.type === 'pausing') this.pausing(event);
      return;
    }
    this.known.history.add(event);
    this.loops.add(event);
    this.attempts.add(event);
    this.move();
    this.progress(event);
    switch (event.type) {
      case 'run':
        this.known.run = event;
        this.line(runHeading(event, this.options.palette));
        break;
      case 'sent':
        this.exchanges.sent(event);
        break;
      case 'answered':
        this.exchanges.arrived(event);
        if (this.options.verbose) this.request(event);
        break;
      case 'said':
        this.said(event);
        break;
      case 'opened':
        this.opened(event);
        break;
      case 'file':
        // That rows begin to be put behind what is there is said when they are.
        if (!event.before) this.files.push(event);
        break;
      case 'note':
        this.note(event);
        break;
      case 'ended':
        this.ended(event);
        break;
      case 'finished':
      case 'paused':
        this.finished(event);
        break;
      default:
    }
  };

  /** A note, with its place; in a loop each place is told of once. */
  private note({ level, code, message, source }: EventOf<'note'>): void {
    const { palette } = this.options;
    const place = source ? `${source.file}:${source.line}` : undefined;
    if (place !== undefined) {
      if (this.noted.has(`${code} ${place}`)) return;
      this.noted.add(`${code} ${place}`);
    }
    const where = place === undefined ? '' : ` ${palette.quiet(`(${place})`)}`;
    this.line(this.lines.paragraph('', `${palette.warning(`${level} ${code}`)}: ${visible(message)}${where}`));
  }

  private said({ step, text }: EventOf<'said'>): void {
    this.line(this.lines.paragraph(stepNumber(step), visible(text)));
  }

  /** Shows that a run is resumed, from what was recorded of it. */
  goOn(heading: string): void {
    if (this.known.run) this.line(runHeading(this.known.run, this.options.palette));
    this.line(this.options.palette.quiet(heading));
  }

  /** A line for the step, and what there is to say of its failure for the end. */
  private ended(event: EventOf<'ended'>): void {
    this.known.endsAnew(event);
    if (saysNothing(event)) return;
    if (event.kind === 'each') this.known.failures.group(event);
    const status = this.exchanges.statusOf(event);
    if (event.kind === 'call')
      this.attempts.ended(event, this.known.history.labelOf(event), (x) => this.exchanges.answered(x)?.status);
    this.count(event);
    // Of what a loop does only its failures are told; the loop's own line says how many held.
    const isTold = event.outcome === 'failed' || !this.isInside(event.step);
    if (isTold && (event.outcome === 'skipped' || !this.isOneTooMany(event))) this.endLine(event);
    else this.exchanges.forget(event);
    // Of what failed because of the steps inside it these have told.
    if (isFailure(event)) this.known.failures.add(event, status, this.known.history);
  }

  private endLine(event: EventOf<'ended'>): void {
    if (event.outcome === 'skipped')
      this.line(this.options.palette.quiet(this.lines.plain(event.step, `skipped: ${event.why ?? ''}`)));
    else if (event.kind === 'call') this.endedCall(event);
    else this.endedOther(event);
  }

  /** What failed beside expectations, which are counted by the engine. */
  private count({ outcome, problem, expects = [] }: EventOf<'ended'>): void {
    if (outcome !== 'failed' || !problem || expects.some(({ passed }) => !passed)) return;
    this.others.set(problem.code, (this.others.get(problem.code) ?? 0) + 1);
  }

  /** Whether a step is told of by the loop that it is in. */
  private isInside(step: string): boolean {
    return !this.options.verbose && this.loops.around(step) !== undefined;
  }

  /** Of the failures of a loop only the first few have a line of their own; all are counted. */
  private isOneTooMany({ step }: EventOf<'ended'>): boolean {
    const loop = this.loops.around(step);
    return loop !== undefined && loop.failed > MAX_LINES && !this.options.verbose;
  }

  /** A branch says which way it goes, another chain its name; loops and rounds are told when they end. */
  private opened(event: EventOf<'opened'>): void {
    const { kind, step, text = '', branch } = event;
    if (event.kind === 'each') this.lines.widen(event);
    if (this.isInside(step)) return;
    if (kind === 'if') this.line(this.lines.plain(step, `${text}: ${branch === 'otherwise' ? 'no' : 'yes'}`));
    if (kind === 'chain') this.line(this.lines.plain(step, text));
  }

  /** How far a loop is, in a line now and then, where no lines move. */
  private progress(event: JournalEvent): void {
    if (this.live || (event.type !== 'ended' && event.type !== 'opened')) return;
    const due = this.loops.due(event);
    if (!due) return;
    const { step } = due.opened;
    const words = `${this.loopHead(step)}   ${progressWords(due, event.at)}`;
    this.line(this.options.palette.quiet(this.lines.plain(step, words)));
  }

  /** The lines that move are drawn anew; not while somebody is asked something. */
  private move(): void {
    if (!this.live) return;
    if (this.underWay.isAsking) this.live.clear();
    this.live.set(() => this.underWay.lines(this.options.nowMs()));
  }

  /** ` 2     let        wanted: 7` */
  private endedOther(event: EventOf<'ended'>): void {
    const { palette } = this.options;
    const failed = !isDone(event);
    const note = failed && event.kind !== 'each' ? outcomeWord(event) : heldWords(event, (step) => this.loopHead(step));
    if (note === '' && event.kind === 'chain') return;
    this.line(this.lines.plain(event.step, note, failed ? palette.bad : undefined));
  }

  /** `vessel in due`. */
  private loopHead(step: string): string {
    return cut(this.known.history.loopText(stepNumber(step)).replace(/^(each|repeat) /, ''), 40);
  }

  /** A request that is not all of its call: `GET /arrivals?page=2   200   12 ms, page 2`. What the call's own line tells is not told twice. */
  private request({ x, status, timings }: EventOf<'answered'>): void {
    const sent = this.exchanges.requestOf(x);
    if (!sent) return;
    const what = placeInCall(sent);
    if (what.length === 0 && status < 300) return;
    const took = spent(timings.send + timings.wait + timings.receive);
    const line = `         ${visible(requestText(sent, this.known.run))}   ${status}   ${[took, ...what].join(', ')}`;
    this.line(this.options.palette.quiet(cut(line, this.options.columns())));
  }

  private endedCall(event: EventOf<'ended'>): void {
    const x = event.why === undefined ? event.x?.at(-1) : event.x?.[0];
    const { sent, answered } =
      x === undefined ? takenOver(event, this.options.recorded) : this.exchanges.take(x, this.options.before?.source);
    this.line(this.lines.call(event, sent ? requestText(sent, this.known.run) : '', answered?.status));
  }

  /** How the run ended. */
  outcome(): Outcome {
    return { summary: this.summary, failure: this.known.failures.first() };
  }

  /** That a run is about to stop. */
  private pausing({ why }: Extract<TransientBody, { type: 'pausing' }>): void {
    if (AS_WANTED.has(why)) return;
    const what = why === 'interrupt' ? 'interrupted' : 'pausing';
    const note = `${what}: no new request starts, requests in flight may finish; press again to stop at once`;
    this.line(this.options.palette.warning(`       ${note}`));
  }

  private finished(ended: EventOf<'finished' | 'paused'>): void {
    const { palette, write, quiet, namedRun } = this.options;
    const columns = this.options.columns();
    this.live?.end();
    const hasFailed = ended.exit !== 0 && (ended.type === 'finished' || AS_WANTED.has(ended.why));
    this.summary = summaryOf(ended.totals, this.others, hasFailed);
    for (const text of this.known.failures.texts(palette, columns, namedRun)) write(`\n${text}\n`);
    const told = {
      files: this.files,
      retried: this.attempts.lines(),
      summary: this.summary,
      notTriedAgain: this.known.notTriedAgain,
      run: this.known.run?.run ?? '',
    };
    for (const text of endTexts(ended, told, { palette, columns, quiet })) write(text);
  }

  private line(text: string): void {
    if (this.options.quiet) return;
    if (this.live) this.live.above(`${text}\n`);
    else this.options.write(`${text}\n`);
  }
}
