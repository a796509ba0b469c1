import type { BodyRef, Stored } from './records.ts';
import { textOf } from '../value/text.ts';
import { writeJson } from '../value/json-write.ts';
import { isList, isObject, typeOf, SpilledList, type Value } from '../value/value.ts';
import { LINES_TYPE, MAX_INLINE, toStored } from './stored.ts';
import { visibleJson } from '../value/visible.ts';
import type { Masker } from '../masking/masker.ts';
import type { Clock, JournalStore } from '../ports.ts';
import { MASKABLE, type BodyContent } from './body.ts';
import { LineWriter } from './line-writer.ts';
import type { EventBody, JournalEvent, Json, ListenerEvent, TransientBody } from './events.ts';

export type Listener = (event: ListenerEvent) => void;

/** Whether it is a fact of the journal, and not only something under way. */
export function isFact(event: ListenerEvent): event is JournalEvent {
  return event.type !== 'waiting' && event.type !== 'pausing';
}

/**
 * The way of every event: masked, numbered, stamped, written, and then shown. What the terminal shows and what the
 * journal holds are therefore the same.
 */
export class Recorder {
  private readonly lines = new LineWriter();
  /** Secrets that were known when something was last written. */
  private secrets = 0;

  constructor(
    private readonly clock: Clock,
    private readonly masker: Masker,
    private readonly store: JournalStore,
    private readonly listeners: readonly Listener[],
    /** The number of the last event of a journal that is gone on with. */
    private seq = 0,
  ) {}

  /** Writes events in one go. They have reached the kernel when this returns. */
  record(...bodies: readonly (EventBody & Readonly<{ at?: number }>)[]): void {
    this.write(bodies, false);
  }

  /** The same for what nothing follows from: it may go out together with what is recorded next. */
  recordSoon(...bodies: readonly EventBody[]): void {
    this.write(bodies, true);
  }

  private write(bodies: readonly (EventBody & Readonly<{ at?: number }>)[], mayWait: boolean): void {
    if (bodies.length === 0) return;
    this.forgetForms();
    const events: JournalEvent[] = [];
    let text = '';
    for (const given of bodies) {
      const seq = ++this.seq;
      const at = given.at ?? this.clock.nowMs();
      let body: EventBody = given.at === undefined ? given : withoutTime(given);
      const row = this.lines.row(body, seq, at);
      if (row !== undefined && !this.masker.mayHoldInLine(row)) text += `${visibleJson(row)}\n`;
      else {
        body = this.maskedBody(body);
        for (const line of this.lines.lines(body, seq, at)) text += `${visibleJson(line)}\n`;
      }
      events.push({ seq, at, ...body });
    }
    this.store.append(text, mayWait);
    for (const event of events) for (const listener of this.listeners) listener(event);
  }

  private maskedBody(body: EventBody): EventBody {
    if (!this.masker.mayHoldInLine(JSON.stringify(body))) return body;
    return this.masker.event(body as unknown as Json) as unknown as EventBody;
  }

  /** What rows leave out was masked when their form was written: a secret that came since may stand in it. */
  private forgetForms(): void {
    const { secrets } = this.masker;
    if (secrets !== this.secrets) this.lines.forget();
    this.secrets = secrets;
  }

  /** Shows what is under way. It is no fact of the past, and is not written down. */
  tell(...bodies: readonly TransientBody[]): void {
    for (const body of bodies) {
      const event = { seq: this.seq, at: this.clock.nowMs(), ...body };
      const masked = this.masker.isActive ? (this.masker.event(event as unknown as Json) as typeof event) : event;
      for (const listener of this.listeners) listener(masked);
    }
  }

  /** Stores a body, masked once and for all. */
  body({ content, type, as }: BodyContent): BodyRef {
    if (typeof content !== 'string') {
      const isSecret = this.masker.isActive && this.masker.text(latin1(content)) !== latin1(content);
      if (isSecret) return { size: content.length, dropped: 'binary-secret', ...(type ? { type } : {}) };
      return this.store.storeBody(content, type);
    }
    if (!this.masker.isActive || !MASKABLE.has(as)) return this.store.storeBody(content, type);
    const masked = as === 'json' ? this.maskedJson(content) : this.masked(content);
    const ref = this.store.storeBody(masked, type);
    return masked === content ? ref : { ...ref, masked: true };
  }

  /** A value for the record; a long one stands beside the journal. */
  stored(value: Value): Stored {
    if (value instanceof SpilledList) {
      return { body: { ...value.file, type: LINES_TYPE }, type: 'array', length: value.length };
    }
    const stored = toStored(value);
    const text = 'json' in stored ? JSON.stringify(stored.json) : 'text' in stored ? stored.text : '';
    if (text.length <= MAX_INLINE) return stored;
    const content = { content: writeJson(value), type: 'application/json', as: 'json' as const };
    const length = isList(value) ? { length: value.length } : {};
    return { body: this.body(content), type: typeOf(value), ...length };
  }

  /** Makes a value secret from now on, whatever kind it is: every text and number in it. */
  mark(name: string, value: Value): void {
    if (isList(value)) value.forEach((item) => this.mark(name, item));
    else if (isObject(value)) Object.values(value).forEach((member) => this.mark(name, member));
    else if (value !== null && typeof value !== 'boolean') {
      const text = textOf(value);
      if (typeof text === 'string') this.masker.add(name, text);
    }
  }

  /** A text as it may be shown and kept. */
  masked(text: string): string {
    return this.masker.isActive ? this.masker.text(text) : text;
  }

  /** A JSON text as it may be kept: it stays JSON. */
  maskedJson(text: string): string {
    return this.masker.isActive ? this.masker.json(text) : text;
  }

  sync(): Promise<void> {
    return this.store.sync();
  }
}

/** What was held before there was a record has its time with it. */
function withoutTime({ at: _at, ...body }: EventBody & Readonly<{ at?: number }>): EventBody {
  return body;
}

function latin1(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return text;
}
