import { asItem, itemBegunBy, itemOf, stepNumber } from '../journal/address.ts';
import { isDone } from '../journal/call-end.ts';
import type { EventOf, JournalEvent, Json } from '../journal/events.ts';
import { LINES_TYPE } from '../journal/stored.ts';
import type { Bind, FailureGroup, Stored, Totals } from '../journal/records.ts';
import { crypto } from '../packages.ts';
import { moreSevereExit } from '../engine/exit.ts';
import { addedTotals } from './added-totals.ts';
import type { RunSource } from './run-source.ts';

/** Entries of a gathered list that are put together. */
const MOST_GATHERED = 100_000;

type RunEnd = EventOf<'finished' | 'paused'>;

/** Why slices are not those of one run. */
export class DivisionFault extends Error {}

/** An outermost loop of a divided run. */
type LoopNow = {
  opened: EventOf<'opened'>;
  ended: EventOf<'ended'>[];
  /** The items of each slice that passed, by their numbers in the list. */
  passed: number[][];
};

/** What the slices of a divided run have in common, found in one pass over each: what stands outside of their loops, and the loops. */
export class Division {
  private readonly outermost = new Map<string, LoopNow>();
  /** The slice that tells of a step outside of loops: the first that did it. */
  private readonly teller = new Map<string, number>();
  private readonly ends: (RunEnd | undefined)[] = [];
  /** Calls outside of loops that others did too, which count once. */
  private readonly twice: Totals[] = [];
  private readonly done = new Map<number, number>();
  private firstMs = Infinity;
  private loopEnds: readonly EventOf<'ended'>[] | undefined;
  private lastMs = 0;

  constructor(readonly slices: readonly RunSource[]) {
    for (const [slice, source] of slices.entries()) for (const event of source.events) this.add(event, slice);
  }

  private add(event: JournalEvent, slice: number): void {
    this.firstMs = Math.min(this.firstMs, event.at);
    this.lastMs = Math.max(this.lastMs, event.at);
    if (event.type === 'finished' || event.type === 'paused') this.ends[slice] = event;
    if (event.type === 'resumed') this.ends[slice] = undefined;
    if (event.type === 'opened' && event.kind === 'each' && !isInside(event.step)) this.opened(event);
    if (event.type === 'ended') this.ended(event, slice);
  }

  private opened(event: EventOf<'opened'>): void {
    const passed = this.slices.map((): number[] => []);
    const number = stepNumber(event.step);
    if (!this.outermost.has(number)) this.outermost.set(number, { opened: event, ended: [], passed });
  }

  private ended(event: EventOf<'ended'>, slice: number): void {
    const { step, kind, outcome } = event;
    if (isInside(step)) return this.itemEnded(event, slice);
    const loop = this.outermost.get(stepNumber(step));
    if (loop) loop.ended[slice] = event;
    const before = this.teller.get(step);
    if (before === undefined || before === slice) {
      if (outcome !== 'skipped') this.teller.set(step, slice);
    } else if (kind === 'call' && outcome !== 'skipped') this.twice.push(countsOf(event));
  }

  private itemEnded(event: EventOf<'ended'>, slice: number): void {
    const { step, key, kind } = event;
    if (kind === 'call' && isDone(event)) this.refuseTwice(key, slice);
    const item = asItem(kind === 'item' ? step : (itemBegunBy(step) ?? ''));
    const loop = item && this.outermost.get(item.loop);
    if (loop && isDone(event) && (kind === 'item' || loop.opened.steps === 1)) loop.passed[slice]!.push(item.number);
  }

  /** Of keys only a digest is held. */
  private refuseTwice(key: string, slice: number): void {
    const print = parseInt(crypto().hash('sha256', key).slice(0, 13), 16);
    const before = this.done.get(print);
    if (before !== undefined && before !== slice) {
      const [one, other] = [before, slice].map((each) => this.slices[each]!.id);
      throw new DivisionFault(`${key} was done in two slices: in run ${one} and in run ${other}`);
    }
    this.done.set(print, slice);
  }

  /** Whether a slice's event is told: what stands in a loop is, and of all else what one slice says. */
  isTold(event: JournalEvent, slice: number): boolean {
    if (event.type === 'run') return slice === 0;
    if (event.type === 'finished' || event.type === 'paused') return false;
    const step = 'step' in event ? event.step : undefined;
    if (step === undefined) return event.type !== 'note' || slice === 0;
    if (isInside(step)) return true;
    if (this.outermost.has(stepNumber(step))) return event.type === 'opened' && slice === 0;
    return (this.teller.get(step) ?? 0) === slice;
  }

  /** The ends of the outermost loops, all their items together: put together once, however often they are told. */
  loops(): readonly EventOf<'ended'>[] {
    return (this.loopEnds ??= [...this.endsOfLoops()]);
  }

  private *endsOfLoops(): Generator<EventOf<'ended'>> {
    for (const { ended, passed } of this.outermost.values()) {
      const all = ended.filter((each) => each !== undefined);
      const [first] = all;
      if (!first) continue;
      const worst = all.find(({ outcome }) => outcome !== 'passed') ?? first;
      const counts = all.reduce(
        (sum, { counts: own }) => ({
          done: sum.done + (own?.done ?? 0),
          failed: sum.failed + (own?.failed ?? 0),
          skipped: 0,
        }),
        { done: 0, failed: 0, skipped: 0 },
      );
      const groups: readonly FailureGroup[] = all.flatMap((each) => each.groups ?? []);
      const binds = (first.binds ?? []).map((bind): Bind => ({
        ...bind,
        value: this.gathered(bind.name, ended, passed),
      }));
      yield {
        ...worst,
        counts,
        ...(groups.length > 0 ? { groups: [...groups] } : {}),
        ...(binds.length > 0 ? { binds } : {}),
      };
    }
  }

  /** A gathered list of all slices in the order of the list; of a very long one only how long it is. */
  private gathered(
    name: string,
    ended: readonly (EventOf<'ended'> | undefined)[],
    passed: readonly (readonly number[])[],
  ): Stored {
    const stored = ended.map((event) => event?.binds?.find((bind) => bind.name === name)?.value);
    const length = stored.reduce((sum, each) => sum + (each && 'length' in each ? (each.length ?? 0) : 0), 0);
    if (length > MOST_GATHERED) return { body: { dropped: 'size', size: 0 }, type: 'array', length };
    const entries: (readonly [number, Json])[] = [];
    for (const [slice, each] of stored.entries()) {
      const numbers = [...passed[slice]!].sort((one, other) => one - other);
      const values = each ? listOf(each, this.slices[slice]!) : [];
      for (const [i, value] of values.entries()) entries.push([numbers[i] ?? Infinity, value]);
    }
    entries.sort(([one], [other]) => one - other);
    return { json: entries.map(([, value]) => value) };
  }

  /** How all of it ended: as the slice that ended worst, with the totals of all. */
  end(): JournalEvent {
    const found = this.ends.filter((end) => end !== undefined);
    const open = this.ends.length < this.slices.length || found.length < this.slices.length;
    const paused = found.find(({ type }) => type === 'paused');
    const totals = this.totals(found);
    const exit = found.reduce((worst, end) => moreSevereExit(worst, end.exit), 0);
    const base = { seq: 0, at: this.lastMs };
    if (paused?.type === 'paused') return { ...paused, ...base, totals };
    if (open) return { ...base, type: 'paused', why: 'interrupt', exit: 130, totals };
    return {
      ...base,
      type: 'finished',
      outcome: exit === 0 ? 'passed' : 'failed',
      exit,
      outputs: this.outputs(found),
      totals,
    };
  }

  private totals(found: readonly RunEnd[]): Totals {
    const all = addedTotals(
      found.map(({ totals }) => totals),
      Math.max(0, this.lastMs - this.firstMs),
    );
    const twice = addedTotals(this.twice, 0);
    return {
      ...all,
      calls: all.calls - twice.calls,
      exchanges: all.exchanges - twice.exchanges,
      expects: all.expects - twice.expects,
      passed: all.passed - twice.passed,
    };
  }

  /** Outputs that all slices have alike, and lists that were gathered, put together. */
  private outputs(found: readonly RunEnd[]): Record<string, Stored> {
    const lists = new Map(this.loops().flatMap(({ binds = [] }) => binds.map(({ name, value }) => [name, value])));
    const outputs: Record<string, Stored> = {};
    for (const end of found) {
      if (end.type !== 'finished') continue;
      for (const [name, stored] of Object.entries(end.outputs)) outputs[name] ??= lists.get(name) ?? stored;
    }
    return outputs;
  }
}

const isInside = (step: string): boolean => itemOf(step) !== '' || asItem(step) !== undefined;

/** What a call counts in the totals of its run. */
function countsOf({ x = [], expects = [] }: EventOf<'ended'>): Totals {
  const passed = expects.filter((each) => each.passed).length;
  return { calls: 1, failed: 0, exchanges: x.length, expects: expects.length, passed, retried: 0, ms: 0, waited: {} };
}

/** The values of a list that was gathered in one slice. */
function listOf(stored: Stored, source: RunSource): readonly Json[] {
  if ('json' in stored) return Array.isArray(stored.json) ? stored.json : [];
  if (!('body' in stored)) return [];
  const text = new TextDecoder().decode(source.body(stored.body) ?? new Uint8Array());
  if (stored.body.type !== LINES_TYPE) return JSON.parse(text === '' ? '[]' : text) as Json[];
  return text.split('\n').flatMap((line) => (line === '' ? [] : [JSON.parse(line) as Json]));
}
