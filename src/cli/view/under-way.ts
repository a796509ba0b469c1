import { FewMap } from '../../core/few-map.ts';
import type { EventOf, ListenerEvent, TransientBody } from '../../core/journal/events.ts';
import { stepNumber } from '../../core/journal/address.ts';
import { grouped, spent } from '../../core/value/show.ts';
import { columnsOf } from './columns.ts';
import { bar, countWords, failedWords, leftWords, type Loops, type LoopState } from './loops.ts';
import type { StepLines } from './step-lines.ts';
import { cut, padded } from './text.ts';
import { visible } from '../../core/value/visible.ts';
import { attemptWords, progressBar, reasonWords, type Waiting } from './waits.ts';

/** Lines of each sort that are shown; of more it is said how many there are. */
const MAX_LINES = 3;
/** Milliseconds after which a request of its own is shown. */
const LONG_MS = 2000;
const WIDEST_BAR = 30;
const NARROWEST_BAR = 8;

type UnderWayOptions = Readonly<{
  lines: StepLines;
  /** Columns of the terminal as it is now. */
  columns(): number;
  loopHead(step: string): string;
  requestText(sent: EventOf<'sent'>): string;
}>;

/** What is under way in a run, told as lines that move: its loops, what is waited for, requests that take long. */
export class UnderWay {
  private readonly waiting = new Map<string, Waiting>();
  /** The last look of steps that poll or repeat. */
  private readonly attempted = new Map<string, EventOf<'attempted'>>();
  private readonly inFlight = new FewMap<number, EventOf<'sent'>>();
  /** How long responses are waited for, in milliseconds. */
  private readonly limits = new Map<number, number>();

  constructor(
    private readonly loops: Loops,
    private readonly options: UnderWayOptions,
  ) {}

  add(event: ListenerEvent): void {
    switch (event.type) {
      case 'waiting':
        return this.waits(event);
      case 'sent':
        return this.inFlight.set(event.x, event);
      case 'limited':
        return void this.limits.set(event.x, event.limitMs);
      case 'answered':
      case 'broken':
        this.limits.delete(event.x);
        return this.inFlight.delete(event.x);
      case 'attempted':
        return void this.attempted.set(event.step, event);
      case 'ended':
        if (event.kind === 'call' || event.kind === 'repeat') this.attempted.delete(event.step);
        return;
      default:
    }
  }

  private waits(event: Extract<TransientBody, { type: 'waiting' }>): void {
    if (event.why === undefined) this.waiting.delete(event.step);
    else this.waiting.set(event.step, event as Waiting);
  }

  /** Whether somebody is asked something: nothing moves meanwhile. */
  get isAsking(): boolean {
    for (const { why } of this.waiting.values()) if (why === 'ask') return true;
    return false;
  }

  lines(now: number): readonly string[] {
    if (this.isAsking) return [];
    const loops = this.loops.all();
    const width = this.options.columns() - 1;
    const lines =
      loops.length > 0
        ? [...someOf(loops, (loop) => this.loopLine(loop, width)), this.activity(loops, now)]
        : [...this.waitLines(now, width), ...this.longRequests(now)];
    return lines.filter((line) => line.trim() !== '').map((line) => cut(line, width));
  }

  /** ` 1     vessel in due   ████████░░░░   300 of 500`: the bar takes what room there is. */
  private loopLine(loop: LoopState, width: number): string {
    const { step, total = 0 } = loop.opened;
    const head = ` ${padded(stepNumber(step), this.options.lines.numberWidth)} ${cut(visible(this.options.loopHead(step)), 28)}`;
    const attempted = this.attempted.get(step);
    const words = [countWords(loop), ...(attempted ? [attemptWords(attempted)] : [])].join(': ');
    // As wide as it will be at the end, so that the bar keeps its length.
    const room = Math.min(WIDEST_BAR, width - columnsOf(head) - 2 * grouped(total).length - 10);
    const parts = room < NARROWEST_BAR ? [head, words] : [head, bar(loop, room), words];
    return parts.filter((part) => part !== '').join('   ');
  }

  /** `3 failed, 8 in flight, 2 waiting for the rate limit 100/s, 0.1 s, about 2 min left`: of all that is inside of loops. */
  private activity([outermost]: readonly LoopState[], now: number): string {
    const byReason = new Map<string, Waiting[]>();
    for (const each of this.waiting.values()) {
      if (this.isRound(each)) continue;
      byReason.set(each.why, [...(byReason.get(each.why) ?? []), each]);
    }
    const waits = [...byReason.values()].map((all) => {
      const soonest = all.reduce((one, other) => ((other.until ?? Infinity) < (one.until ?? Infinity) ? other : one));
      const attempt = soonest.why === 'poll' ? this.attempted.get(soonest.step) : undefined;
      const words = [reasonWords(soonest, now), ...(attempt ? [attemptWords(attempt)] : [])].join(': ');
      return all.length === 1 ? words : `${grouped(all.length)} ${words}`;
    });
    const requests = this.inFlight.size === 0 ? [] : [`${grouped(this.inFlight.size)} in flight`];
    const parts = [failedWords(outermost!), ...requests, ...waits, leftWords(outermost!, now)];
    return `       ${visible(parts.filter((part) => part !== '').join(', '))}`;
  }

  /** A round that is waited for is told by the line of its loop. */
  private isRound({ why }: Waiting): boolean {
    return why === 'repeat';
  }

  private waitLines(now: number, width: number): readonly string[] {
    return someOf([...this.waiting.values()], (each) => {
      const attempt = each.why === 'poll' ? this.attempted.get(each.step) : undefined;
      if (!attempt) return this.options.lines.plain(each.step, reasonWords(each, now));
      const next = each.until === undefined ? '' : `, next in ${spent(Math.max(0, each.until - now))}`;
      const words = `poll ${attempt.attempt}: ${attemptWords(attempt)}${next}`;
      const room = Math.min(
        WIDEST_BAR,
        width - this.options.lines.nameWidth - this.options.lines.numberWidth - columnsOf(words) - 13,
      );
      const bar = room < NARROWEST_BAR ? '' : progressBar(attempt, room);
      return this.options.lines.plain(each.step, [bar, words].filter((part) => part !== '').join('   '));
    });
  }

  /** Requests that are not answered at once, outside of loops: that something goes on is seen. */
  private longRequests(now: number): readonly string[] {
    const long = this.inFlight.values().filter(({ at }) => now - at >= LONG_MS);
    return someOf(long, (sent) =>
      this.options.lines.plain(sent.step, `${this.options.requestText(sent)}   ${this.silence(sent, now)}`),
    );
  }

  /** `no response for 3.1 s (limit 60.0 s)`. */
  private silence({ x, at }: EventOf<'sent'>, now: number): string {
    const limit = this.limits.get(x);
    return `no response for ${spent(now - at)}${limit === undefined ? '' : ` (limit ${spent(limit)})`}`;
  }
}

/** A line for each of the first few, and one for how many more there are. */
function someOf<T>(all: readonly T[], line: (one: T) => string): readonly string[] {
  const rest = all.length - MAX_LINES;
  return [...all.slice(0, MAX_LINES).map(line), ...(rest > 0 ? [`       and ${grouped(rest)} more`] : [])];
}
