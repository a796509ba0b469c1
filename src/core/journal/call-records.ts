import type { SpilledList } from '../value/value.ts';
import type { BodyRef } from './records.ts';
import type { EventOf, JournalEvent, SettledBody } from './events.ts';
import type { Journal } from './journal.ts';
import { callEndOf, TAKEN, type CallEnd } from './call-end.ts';
import { CallPlaces } from './call-places.ts';
import { nameInKey, placeInKey, withoutItems } from './keys.ts';
import { NumberedPlaces } from './numbered-places.ts';
import { Numbers } from './numbers.ts';
import { StepRecords } from './step-records.ts';

/** One request of a recorded call with its answer: of several tries and hops the last. */
type RecordedExchange = Readonly<{ sent: EventOf<'sent'>; answered: EventOf<'answered'> }>;

/** A call as a run has recorded it: how it ended, and what was answered on each page, or on the last attempt. */
export type RecordedCall = Readonly<{
  run: string;
  ended: EventOf<'ended'>;
  /** What was first sent for it, whatever came of that. */
  first: EventOf<'sent'> | undefined;
  exchanges: readonly RecordedExchange[];
  /** Looks of a call that polled. */
  attempts: number | undefined;
  /** A body of its exchanges. */
  body(ref: BodyRef): Uint8Array | undefined;
  /** A list of so many items that stands in lines beside the journal; nothing where it is not there whole. */
  list(ref: BodyRef, length: number): SpilledList | undefined;
}>;

/** What stands beside a journal. */
export type Beside = Pick<RecordedCall, 'body' | 'list'>;

/** The key of what is said of an address when no line of the record tells of a request there. */
export const lostAt = (address: string): string => `@${address}`;

/** What a run has recorded of its calls, by the keys of their steps. Of what was done only the places are held. */
export class CallRecords {
  private readonly calls: CallPlaces;
  /** Items of loops by their keys without items, as the last opening told them. */
  readonly totals = new Map<string, number>();
  /** The files that it ran with, each time that it was begun or resumed. */
  private readonly files = new Set<string>();
  private readonly sent = new NumberedPlaces();
  private readonly answers = new NumberedPlaces();
  /** Exchanges of which the record does not hold all. */
  private readonly partly = new Numbers(new Int32Array(64));
  /** Requests that were not answered so far, with the numbers of their keys. */
  private readonly open = new Map<string, Readonly<{ sent: EventOf<'sent'>; number: number }>>();
  /** The step that was last noted. */
  private noted: string | undefined;
  /** What was said of the last request of a key. */
  private readonly settlements = new Map<string, SettledBody>();
  private readonly undone = new Set<string>();
  /** What was recorded of steps that are no calls. */
  readonly steps = new StepRecords();
  /** Failed calls by the items of loops that they are in. */
  private readonly failures = new Map<string, EventOf<'ended'>[]>();
  private orphans: Map<string, string[]> | undefined;
  /** Whether lines of the journal are lost, which may have told of something that was sent. */
  hasLost = false;
  private seq = 0;
  /** Whether it is a slice of a divided run, whose other items are none of its own. */
  private isDivided = false;
  /** The number of the last exchange. */
  last = 0;

  constructor(
    readonly run: string,
    private readonly journal: Journal,
    readonly beside: Beside,
    /** What another run has recorded, from which calls were taken over. */
    private readonly origin: (run: string) => CallRecords | undefined = () => undefined,
    /** Is given each event too, so that a long record is read once. */
    listener: (event: JournalEvent) => void = () => {},
  ) {
    this.calls = new CallPlaces((place) => this.read<'sent' | 'ended'>(place)!.key);
    for (const [event, place] of journal.placed()) {
      this.hasLost ||= event.seq > this.seq + 1;
      this.seq = event.seq;
      this.add(event, place);
      listener(event);
    }
  }

  private add(event: JournalEvent, place: number): void {
    this.steps.add(event);
    switch (event.type) {
      case 'sent':
        this.last = Math.max(this.last, event.x);
        this.sent.set(event.x, place);
        if (event.purpose !== 'call' && event.purpose !== 'undo') return;
        this.opened(event, place);
        return;
      case 'run':
        this.isDivided = 'slice' in (event.options as object);
        this.files.add(JSON.stringify(event.files));
        return;
      case 'resumed':
        this.files.add(JSON.stringify(event.files));
        return;
      case 'note':
        this.noted = event.step;
        return;
      case 'settled':
        this.settle(event);
        return;
      case 'answered':
        this.answers.set(event.x, place);
        if (event.setCookies || (event.body && 'dropped' in event.body)) this.partly.set(event.x, 1);
        return;
      case 'undone':
        if (event.outcome === 'passed') this.undone.add(event.key);
        return;
      case 'opened':
        if (event.kind === 'each') this.totals.set(withoutItems(event.key), itemsOf(event, this.isDivided));
        return;
      case 'ended':
        if (event.kind === 'call') this.ended(event, place);
        return;
      default:
    }
  }

  /** Takes in what is said of a request, for good. */
  settle(event: SettledBody): void {
    this.settlements.set(event.key, event);
    if (event.as === 'sent' || event.as === 'not-sent') this.open.delete(event.key);
  }

  private opened(event: EventOf<'sent'>, place: number): void {
    const { key } = event;
    const number = this.calls.sent(key, place, !this.open.has(key));
    this.open.set(key, { sent: event, number });
    this.settlements.delete(key);
  }

  private read<T extends JournalEvent['type']>(place: number | undefined): EventOf<T> | undefined {
    return place === undefined ? undefined : (this.journal.at(place) as EventOf<T>);
  }

  private ended(event: EventOf<'ended'>, place: number): void {
    const { key, outcome } = event;
    // One that was stopped before it sent anything says nothing of what was done before.
    if (outcome === 'cut' && !event.x?.length) return;
    this.undone.delete(key);
    this.calls.ended(key, place, callEndOf(event, this.isWhole(event)), this.open.get(key)?.number);
    // One that was cut, or whose answer never came, leaves its request open.
    if (outcome !== 'cut' && this.isAnswered(event)) this.open.delete(key);
    if (outcome !== 'failed' && this.failures.size === 0) return;
    for (const { index } of key.matchAll(/\}\//g)) this.endedInside(key.slice(0, index + 2), event);
  }

  private isWhole({ step, x = [] }: EventOf<'ended'>): boolean {
    return step !== this.noted && x.every((each) => this.partly.get(each) === 0);
  }

  /** Failed calls are known by each item that they are in. */
  private endedInside(prefix: string, event: EventOf<'ended'>): void {
    const before = this.failures.get(prefix);
    const hasFailed = event.outcome === 'failed';
    if (!before && !hasFailed) return;
    const others = (before ?? []).filter(({ key }) => key !== event.key);
    this.failures.set(prefix, hasFailed ? [...others, event] : others);
  }

  private isAnswered({ x = [] }: EventOf<'ended'>): boolean {
    const last = x.at(-1);
    return last === undefined || this.answers.has(last);
  }

  /** The call of a key, unless it was taken back since; that too where only what was recorded counts. */
  call(key: string, isAnyway = false): RecordedCall | undefined {
    const number = this.calls.find(key);
    const ended = this.read<'ended'>(this.calls.ending(number));
    if (!ended || (this.undone.has(key) && !isAnyway)) return undefined;
    const { exchanges, attempts } = this.exchangesOf(ended);
    // A record that is spread would be read whole.
    const { body, list } = this.beside;
    const elsewhere = exchanges.length === 0 ? ended.from : undefined;
    const there = elsewhere && this.origin(elsewhere.run)?.call(key, isAnyway);
    const first = this.read<'sent'>(this.calls.first(number));
    return there ? { ...there, ended } : { run: this.run, ended, first, exchanges, attempts, body, list };
  }

  /** The answered exchanges of a call, the last of each page, and the number of its last look. */
  private exchangesOf({ x: numbers = [] }: EventOf<'ended'>): Pick<RecordedCall, 'exchanges' | 'attempts'> {
    const byRound = new Map<number, RecordedExchange>();
    let attempts: number | undefined;
    for (const x of numbers) {
      const sent = this.read<'sent'>(this.sent.get(x));
      const answered = this.read<'answered'>(this.answers.get(x));
      if (!sent || !answered) continue;
      attempts = sent.attempt ?? attempts;
      byRound.set(sent.page ?? 1, { sent, answered });
    }
    return { exchanges: [...byRound.values()], attempts };
  }

  /** What was said of the last request of a call, or of what may have been sent at its address. */
  settled(key: string, address: string): SettledBody | undefined {
    return this.settlements.get(key) ?? this.settlements.get(lostAt(address));
  }

  /** Requests that may not be sent twice, went out, and were never answered. */
  inDoubt(): readonly EventOf<'sent'>[] {
    const open = [...this.open.values()].map(({ sent }) => sent);
    return open.filter(({ purpose, repeatable }) => purpose === 'call' && !repeatable);
  }

  /**
   * The key under which a call is recorded: its own, or that of a call which is no longer known by its name, stands in the
   * same items, and was sent as this one would be now. A call may be renamed to and fro: what was sent last counts. `names`
   * are those of the calls that there are now.
   */
  keyOf(key: string, print: string, names: () => ReadonlySet<string>): string {
    this.orphans ??= this.orphansBy(names());
    const [renamed, ...more] = this.orphans.get(`${placeInKey(key)} ${print}`) ?? [];
    if (renamed === undefined || more.length > 0) return key;
    const lastSent = (of: string) => this.calls.last(this.calls.find(of)) ?? -1;
    return lastSent(renamed) > lastSent(key) ? renamed : key;
  }

  private orphansBy(names: ReadonlySet<string>): Map<string, string[]> {
    const found = new Map<string, string[]>();
    for (let number = 0; number < this.calls.size; number++) {
      if (names.has(nameInKey(this.calls.plainKey(number)))) continue;
      const key = this.calls.keyOf(number);
      if (!this.mayStandFor(key, number)) continue;
      for (const fingerprint of this.fingerprintsOf(key, number)) {
        const id = `${placeInKey(key)} ${fingerprint}`;
        found.set(id, [...(found.get(id) ?? []), key]);
      }
    }
    return found;
  }

  /** What only took another's place, what was taken back, and what was never processed, stands for nothing. */
  private mayStandFor(key: string, number: number): boolean {
    return (
      this.calls.last(number) !== undefined && this.settlements.get(key)?.as !== 'not-sent' && !this.undone.has(key)
    );
  }

  /** The request that was sent; what was done stands for another one, too, where somebody said so. */
  private fingerprintsOf(key: string, number: number): ReadonlySet<string | undefined> {
    const ended = this.read<'ended'>(this.calls.ending(number));
    const own = ended?.requestFingerprint ?? this.read<'sent'>(this.calls.first(number))?.requestFingerprint;
    return new Set([own, this.settlements.get(key)?.requestFingerprint ?? own]);
  }

  /** A request that went out and was never answered, as far as is recorded. */
  unanswered(key: string): EventOf<'sent'> | undefined {
    return this.open.get(key)?.sent;
  }

  /** Failed calls inside an item, by what stands before their keys. */
  failedIn(prefix: string): readonly EventOf<'ended'>[] {
    return this.failures.get(prefix) ?? [];
  }

  /** How a call that a person said nothing of ended, and was not taken back since. */
  endOf(key: string): CallEnd | undefined {
    const isPlain = !this.undone.has(key) && !this.settlements.has(key) && !this.open.has(key);
    return isPlain ? this.calls.end(this.calls.find(key)) : undefined;
  }

  /** Whether it ran with these files each time. */
  isOf(files: EventOf<'run'>['files']): boolean {
    return this.files.size === 1 && this.files.has(JSON.stringify(files));
  }

  /**
   * How calls ended, each the last time, in the order in which they first did; not those that were taken back since. What
   * was said to have been sent is done. Keys are without their items.
   */
  *all(): Iterable<Readonly<{ plainKey: string; end: CallEnd; address(): string }>> {
    const { calls } = this;
    const isAny = this.settlements.size + this.undone.size > 0;
    for (let number = 0; number < calls.size; number++) {
      const key = isAny ? calls.keyOf(number) : '';
      const end = calls.end(number);
      const said = this.settlements.get(key);
      const plainKey = calls.plainKey(number);
      if (said?.as === 'sent') yield { plainKey, end: TAKEN, address: () => said.step };
      else if (end && !this.undone.has(key))
        yield { plainKey, end, address: () => this.read<'ended'>(calls.ending(number))!.step };
    }
  }
}

function itemsOf({ total = 0, selected = total }: EventOf<'opened'>, isDivided: boolean): number {
  return isDivided ? selected : total;
}
