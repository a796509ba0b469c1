import type { FailureGroup } from '../../core/journal/records.ts';
import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { asItem, itemBegunBy, loopOf, stepNumber } from '../../core/journal/address.ts';
import { grouped } from '../../core/value/show.ts';

/** A loop under way; of a `repeat` what is done are the rounds that ended. */
export type LoopState = {
  readonly opened: EventOf<'opened'>;
  done: number;
  failed: number;
  /** Parts of the way that were told already, where no line moves. */
  told: number;
  toldAt: number;
  /** How far it was at two moments; what is left is reckoned from the earlier one, in the latter half of its time so far. */
  before: Mark;
  mark: Mark;
  /** Whether a request went out since it was opened: items of before, whose responses are recorded, say nothing of those to come. */
  isSending: boolean;
};

type Mark = { readonly at: number; ended: number };

/** Milliseconds that a loop runs before anything is reckoned from a part of its time. */
const FIRST_MARK_MS = 1000;

/** Where no line moves, a loop says how far it is after each tenth of the way, or each minute. */
const PARTS = 10;
const MINUTE_MS = 60_000;

const LOOPS: ReadonlySet<string> = new Set(['each', 'repeat']);

/** How far loops are, by the events of their items. */
export class Loops {
  private readonly open = new Map<string, LoopState>();

  add(event: JournalEvent): void {
    if (event.type === 'opened') this.begun(event);
    else if (event.type === 'sent') for (const state of this.open.values()) state.isSending = true;
    else if (event.type === 'ended') this.ended(event);
    else if (event.type === 'kept') this.kept(event);
  }

  /** Items that were done before say nothing of the time of those to come. */
  private kept({ step, items, at }: EventOf<'kept'>): void {
    const state = this.open.get(stepNumber(step));
    if (!state) return;
    state.done += items;
    if (!state.isSending) state.before = state.mark = { at, ended: state.done + state.failed };
    else for (const mark of new Set([state.before, state.mark])) mark.ended += items;
  }

  private begun(event: EventOf<'opened'>): void {
    if (event.kind === 'round') {
      const state = this.open.get(asItem(event.step)?.loop ?? '');
      if (state) state.done = event.round! - 1;
    }
    if (!LOOPS.has(event.kind)) return;
    const { at, step } = event;
    const mark = { at, ended: 0 };
    const none = { done: 0, failed: 0, told: 0 };
    this.open.set(stepNumber(step), { opened: event, ...none, toldAt: at, before: mark, mark, isSending: false });
  }

  private ended(event: EventOf<'ended'>): void {
    if (LOOPS.has(event.kind)) this.open.delete(stepNumber(event.step));
    const state = this.loopOfItem(event);
    if (!state || event.outcome === 'cut') return;
    if (event.outcome === 'failed') state.failed++;
    else state.done++;
    const { opened, mark } = state;
    const here = { at: event.at, ended: state.done + state.failed };
    if (!state.isSending) state.before = state.mark = here;
    else if (event.at - opened.at >= Math.max(FIRST_MARK_MS, 2 * (mark.at - opened.at))) {
      state.before = mark;
      state.mark = here;
    }
  }

  /** The loop of which an event ends an item: of items with one step it is that step's end. */
  private loopOfItem(event: EventOf<'ended'>): LoopState | undefined {
    if (event.kind === 'item') return this.open.get(asItem(event.step)?.loop ?? '');
    const state = this.open.get(asItem(itemBegunBy(event.step) ?? '')?.loop ?? '');
    return state?.opened.steps === 1 ? state : undefined;
  }

  /** The innermost loop that a step is in, while it is under way. */
  around(step: string): LoopState | undefined {
    const loop = loopOf(step);
    return loop === undefined ? undefined : this.open.get(loop);
  }

  /** The loops under way, the outermost first. */
  all(): readonly LoopState[] {
    return [...this.open.values()];
  }

  /** Rounds are told each minute. */
  private dueRound({ step, at }: EventOf<'opened'>): LoopState | undefined {
    const state = this.open.get(asItem(step)?.loop ?? '');
    if (!state || at - state.toldAt < MINUTE_MS) return undefined;
    state.toldAt = at;
    return state;
  }

  /** A loop that has come so far that it is to be said, where no line moves. */
  due(event: JournalEvent): LoopState | undefined {
    if (event.type === 'opened' && event.kind === 'round') return this.dueRound(event);
    const state = event.type === 'ended' ? this.loopOfItem(event) : undefined;
    const total = state ? sizeOf(state.opened) : 0;
    if (!state || total < PARTS * 10) return undefined;
    const part = Math.floor(((state.done + state.failed) / total) * PARTS);
    if (part >= PARTS || (part <= state.told && event.at - state.toldAt < MINUTE_MS)) return undefined;
    state.told = Math.max(part, state.told);
    state.toldAt = event.at;
    return state;
  }
}

/** Items that run: all, or those that were chosen. */
function sizeOf({ total = 0, selected }: EventOf<'opened'>): number {
  return selected ?? total;
}

/** `1,200 of 40,000`; `round 7`. */
export function countWords({ opened, done, failed }: LoopState): string {
  if (opened.kind === 'repeat') return `round ${done + 1}`;
  return `${grouped(done + failed)} of ${grouped(sizeOf(opened))}`;
}

/** `3 failed`, where there are any. */
export function failedWords({ failed }: LoopState): string {
  return failed > 0 ? `${grouped(failed)} failed` : '';
}

/** `about 2 min left`, where it can be reckoned. */
export function leftWords({ opened, done, failed, before }: LoopState, now: number): string {
  if (opened.kind === 'repeat') return '';
  const total = sizeOf(opened);
  const ended = done + failed;
  const since = ended - before.ended;
  const left = since > 0 && ended < total ? ((now - before.at) / since) * (total - ended) : 0;
  return left > 2000 ? `about ${roughly(left)} left` : '';
}

/** All of these, where there is one line for them. */
export function progressWords(state: LoopState, now: number): string {
  return [countWords(state), failedWords(state), leftWords(state, now)].filter((part) => part !== '').join(', ');
}

function roughly(milliseconds: number): string {
  const seconds = Math.round(milliseconds / 1000);
  if (seconds < 90) return `${seconds} s`;
  return seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${Math.round(seconds / 3600)} h`;
}

/** A bar of so many columns; none where nobody knows how long the way is. */
export function bar({ opened, done, failed }: LoopState, width: number): string {
  if (opened.kind === 'repeat') return '';
  const total = Math.max(1, sizeOf(opened));
  const filled = Math.min(width, Math.floor(((done + failed) / total) * width));
  return '\u2588'.repeat(filled) + '\u2591'.repeat(width - filled);
}

/** What there is to say of failures that are alike, beside the one that is shown whole. */
export function groupLines({ count, items, common }: FailureGroup): readonly string[] {
  return [`${grouped(count)} items failed in the same way: ${items}`, ...common];
}
