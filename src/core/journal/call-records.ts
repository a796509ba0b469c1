import type { BodyRef, EventOf, JournalEvent, RecordedRequest, SettledBody } from './events.ts';
import type { Journal } from './journal.ts';

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
}>;

/** The name of a call in its key, and what stands before it: the loops and items that it is in. */
export const nameInKey = (key: string): string => key.slice(key.lastIndexOf('/') + 1);
const placeInKey = (key: string): string => key.slice(0, key.lastIndexOf('/') + 1);

/** The key of what is said of an address when no line of the record tells of a request there. */
export const lostAt = (address: string): string => `@${address}`;

/** Outcomes of a step that needs not be done again. */
const DONE: ReadonlySet<string> = new Set(['passed', 'reused', 'fresh']);

export function isDone({ outcome }: Pick<EventOf<'ended'>, 'outcome'>): boolean {
  return DONE.has(outcome);
}

/** How a call ended, as far as it matters for going on; one for all that ended alike. */
export type CallEnd = Readonly<{
  outcome: EventOf<'ended'>['outcome'];
  requestText: string | undefined;
  assertionFingerprint: string | undefined;
  /** Whether requests of this run stand for it. */
  isSent: boolean;
  /** Whether it failed for an item of a loop. */
  isOfItem: boolean;
}>;

/** Of a request that somebody says was processed, though no answer is recorded. */
const TAKEN: CallEnd = {
  outcome: 'reused',
  requestText: undefined,
  assertionFingerprint: undefined,
  isSent: false,
  isOfItem: false,
};

/** Where the events of one key stand: what was first and last sent for it, and how it last ended. */
type Places = {
  first: number | undefined;
  last: number | undefined;
  ended: number | undefined;
  end: CallEnd | undefined;
};

/** What a run has recorded of its calls, by the keys of their steps. Of what was done only the places are held. */
export class CallRecords {
  private readonly calls = new Map<string, Places>();
  private readonly alike = new Map<string, CallEnd>();
  /** Items of loops by their keys, as the last opening told them. */
  readonly totals = new Map<string, number>();
  private readonly sent = new Map<number, number>();
  private readonly answers = new Map<number, number>();
  private readonly open = new Map<string, EventOf<'sent'>>();
  /** What was said of the last request of a key. */
  private readonly settlements = new Map<string, SettledBody>();
  private readonly undone = new Set<string>();
  private readonly waits = new Set<string>();
  private readonly listened = new Map<string, EventOf<'listening'>>();
  private readonly addresses = new Map<string, EventOf<'listening'>>();
  private readonly called = new Map<string, RecordedRequest>();
  private readonly taken = new Map<string, RecordedRequest>();
  /** Files that responses were saved to, by the steps that did. */
  private readonly savings = new Map<string, EventOf<'file'>>();
  private readonly files = new Map<string, { sizeBefore: number; after: EventOf<'file'>['after'] | undefined }>();
  /** Failed calls by the items of loops that they are in. */
  private readonly failures = new Map<string, EventOf<'ended'>[]>();
  private orphans: Map<string, string[]> | undefined;
  /** Whether lines of the journal are lost, which may have told of something that was sent. */
  hasLost = false;
  private seq = 0;
  /** The number of the last exchange. */
  last = 0;

  constructor(
    readonly run: string,
    private readonly journal: Journal,
    readonly body: (ref: BodyRef) => Uint8Array | undefined,
    /** What another run has recorded, from which calls were taken over. */
    private readonly origin: (run: string) => CallRecords | undefined = () => undefined,
  ) {
    for (const [event, place] of journal.placed()) {
      this.hasLost ||= event.seq > this.seq + 1;
      this.seq = event.seq;
      this.add(event, place);
    }
  }

  private add(event: JournalEvent, place: number): void {
    switch (event.type) {
      case 'sent':
        this.last = Math.max(this.last, event.x);
        this.sent.set(event.x, place);
        if (event.purpose !== 'call' && event.purpose !== 'undo') return;
        if (!this.open.has(event.key)) this.placesOf(event.key).first = place;
        this.placesOf(event.key).last = place;
        this.open.set(event.key, event);
        this.settlements.delete(event.key);
        return;
      case 'settled':
        this.settle(event);
        return;
      case 'answered':
        this.answers.set(event.x, place);
        return;
      case 'undone':
        if (event.outcome === 'passed') this.undone.add(event.key);
        return;
      case 'listening':
        this.listened.set(event.step, event);
        return;
      case 'called-back':
        this.called.set(event.step, event.request);
        return;
      case 'file':
        if (event.after.sha256 !== undefined) this.savings.set(event.step, event);
        this.written(event);
        return;
      case 'opened':
        if (event.kind === 'each') this.totals.set(event.key, event.total ?? 0);
        return;
      case 'ended':
        this.ended(event, place);
        return;
      default:
    }
  }

  /** Takes in what is said of a request, for good. */
  settle(event: SettledBody): void {
    this.settlements.set(event.key, event);
    if (event.as === 'sent' || event.as === 'not-sent') this.open.delete(event.key);
  }

  private placesOf(key: string): Places {
    let places = this.calls.get(key);
    if (!places)
      this.calls.set(key, (places = { first: undefined, last: undefined, ended: undefined, end: undefined }));
    return places;
  }

  private read<T extends JournalEvent['type']>(place: number | undefined): EventOf<T> | undefined {
    return place === undefined ? undefined : (this.journal.at(place) as EventOf<T>);
  }

  /** The first words on a file tell its size before; the last, how it was left, unless it is being written since. */
  private written({ path, before, after }: EventOf<'file'>): void {
    const known = this.files.get(path);
    const sizeBefore = known?.sizeBefore ?? before?.size ?? 0;
    this.files.set(path, { sizeBefore, after: before ? undefined : after });
  }

  private ended(event: EventOf<'ended'>, place: number): void {
    if (event.kind === 'wait' && event.outcome === 'passed') this.waits.add(event.key);
    const listening = this.listened.get(event.step);
    if (event.kind === 'listen' && listening) this.addresses.set(event.key, listening);
    const called = this.called.get(event.step);
    if (event.kind === 'receive' && called && isDone(event)) this.taken.set(event.key, called);
    // One that was stopped before it sent anything says nothing of what was done before.
    if (event.kind !== 'call' || (event.outcome === 'cut' && !event.x?.length)) return;
    this.undone.delete(event.key);
    const places = this.placesOf(event.key);
    places.ended = place;
    places.end = this.endOf(event);
    // One that was cut, or whose answer never came, leaves its request open.
    if (event.outcome !== 'cut' && this.isAnswered(event)) this.open.delete(event.key);
    for (const { index } of event.key.matchAll(/\}\//g)) {
      const prefix = event.key.slice(0, index + 2);
      const before = this.failures.get(prefix);
      if (!before && event.outcome !== 'failed') continue;
      const failed = (before ?? []).filter(({ key }) => key !== event.key);
      if (event.outcome === 'failed') failed.push(event);
      this.failures.set(prefix, failed);
    }
  }

  private endOf({ outcome, requestText, assertionFingerprint, x = [], item }: EventOf<'ended'>): CallEnd {
    const end = { outcome, requestText, assertionFingerprint, isSent: x.length > 0, isOfItem: item !== undefined };
    const kind = Object.values(end).join(' ');
    const known = this.alike.get(kind);
    if (!known) this.alike.set(kind, end);
    return known ?? end;
  }

  private isAnswered({ x = [] }: EventOf<'ended'>): boolean {
    const last = x.at(-1);
    return last === undefined || this.answers.has(last);
  }

  /** The call of a key, unless it was taken back since; that too where only what was recorded counts. */
  call(key: string, isAnyway = false): RecordedCall | undefined {
    const places = this.calls.get(key);
    const ended = this.read<'ended'>(places?.ended);
    if (!ended || (this.undone.has(key) && !isAnyway)) return undefined;
    const byRound = new Map<number, RecordedExchange>();
    let attempts: number | undefined;
    for (const x of ended.x ?? []) {
      const sent = this.read<'sent'>(this.sent.get(x));
      const answered = this.read<'answered'>(this.answers.get(x));
      if (!sent || !answered) continue;
      if (sent.attempt !== undefined) attempts = sent.attempt;
      byRound.set(sent.page ?? 1, { sent, answered });
    }
    const first = this.read<'sent'>(places?.first);
    const own = { run: this.run, ended, first, exchanges: [...byRound.values()], attempts, body: this.body };
    const there = ended.from && byRound.size === 0 ? this.origin(ended.from.run)?.call(key, isAnyway) : undefined;
    return there ? { ...there, ended } : own;
  }

  /** What was said of the last request of a call, or of what may have been sent at its address. */
  settled(key: string, address: string): SettledBody | undefined {
    return this.settlements.get(key) ?? this.settlements.get(lostAt(address));
  }

  /** Requests that may not be sent twice, went out, and were never answered. */
  inDoubt(): readonly EventOf<'sent'>[] {
    return [...this.open.values()].filter(({ purpose, repeatable }) => purpose === 'call' && !repeatable);
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
    const lastSent = (of: string) => this.calls.get(of)?.last ?? -1;
    return lastSent(renamed) > lastSent(key) ? renamed : key;
  }

  private orphansBy(names: ReadonlySet<string>): Map<string, string[]> {
    const found = new Map<string, string[]>();
    for (const [key, { ended, first, last }] of this.calls) {
      // What only took another's place, and what was never processed, is no candidate beside it.
      if (last === undefined || this.settlements.get(key)?.as === 'not-sent') continue;
      if (names.has(nameInKey(key)) || this.undone.has(key)) continue;
      const own = this.read<'ended'>(ended)?.requestFingerprint ?? this.read<'sent'>(first)?.requestFingerprint;
      // What was done stands for another request, too, where somebody said so.
      const said = this.settlements.get(key)?.requestFingerprint;
      for (const print of new Set([own, said ?? own])) {
        const id = `${placeInKey(key)} ${print}`;
        found.set(id, [...(found.get(id) ?? []), key]);
      }
    }
    return found;
  }

  /** A request that went out and was never answered, as far as is recorded. */
  unanswered(key: string): EventOf<'sent'> | undefined {
    return this.open.get(key);
  }

  /** Failed calls inside an item, by what stands before their keys. */
  failedIn(prefix: string): readonly EventOf<'ended'>[] {
    return this.failures.get(prefix) ?? [];
  }

  /** A file that the run wrote: its size before that, and how the run left it. */
  file(path: string): { sizeBefore: number; after: EventOf<'file'>['after'] | undefined } | undefined {
    return this.files.get(path);
  }

  /** The address that a step listened at, as its path and port. */
  listening(key: string): EventOf<'listening'> | undefined {
    return this.addresses.get(key);
  }

  /** The file that a call's response was saved to, as it was then. */
  saved(step: string): EventOf<'file'> | undefined {
    return this.savings.get(step);
  }

  /** The request that a step waited for and got. */
  received(key: string): RecordedRequest | undefined {
    return this.taken.get(key);
  }

  hasWaited(key: string): boolean {
    return this.waits.has(key);
  }

  /**
   * How calls ended, each the last time, in the order in which they first did; not those that were taken back since. What
   * was said to have been sent is done.
   */
  *all(): Iterable<Readonly<{ key: string; end: CallEnd; address(): string }>> {
    for (const [key, { ended, end }] of this.calls) {
      const said = this.settlements.get(key);
      if (said?.as === 'sent') yield { key, end: TAKEN, address: () => said.step };
      else if (end && !this.undone.has(key)) yield { key, end, address: () => this.read<'ended'>(ended)!.step };
    }
  }
}
