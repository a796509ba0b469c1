import type { Bind, ItemRecord, Read, Stored } from '../journal/records.ts';
import { asItem, itemBegunBy, itemOf, loopOf, stepName, stepNumber } from '../journal/address.ts';
import type { EventOf, JournalEvent } from '../journal/events.ts';
import { fromStored } from '../journal/stored.ts';
import { articled, counted, showBriefly, showValue } from '../value/show.ts';

/** Characters of a list that are told of an item of it. */
const MAX_LIST = 40;

type BoundAt = Bind & { step: string };

/** Steps that a trail goes back. */
const MAX_TRAIL = 8;

/**
 * What was bound in a run so far, gathered from its events: where each value came from. What an item of a loop bound is
 * forgotten when the item has ended, since nothing reads it any more.
 */
export class History {
  private run: EventOf<'run'> | undefined;
  /** By the item or round in which it was bound, then by step and name. */
  private readonly binds = new Map<string, Map<string, BoundAt>>();
  private readonly loops = new Map<string, EventOf<'opened'>>();
  private readonly repeats = new Map<string, EventOf<'opened'>>();
  private readonly labels = new Map<string, string>();

  add(event: JournalEvent): void {
    if (event.type === 'run') this.run = event;
    else if (event.type === 'opened') this.opened(event);
    else if (event.type === 'ended') this.ended(event);
  }

  private opened(event: EventOf<'opened'>): void {
    const { kind, step, item } = event;
    if (kind === 'each') this.loops.set(stepNumber(step), event);
    if (kind === 'repeat') this.repeats.set(stepNumber(step), event);
    if (item?.label !== undefined) this.labels.set(step, item.label);
  }

  private ended(event: EventOf<'ended'>): void {
    const { step, binds = [] } = event;
    if (binds.length > 0) {
      const item = itemOf(step);
      let inItem = this.binds.get(item);
      if (!inItem) this.binds.set(item, (inItem = new Map<string, BoundAt>()));
      for (const bind of binds) inItem.set(`${step} ${bind.name}`, { ...bind, step });
    }
    const over = this.itemEnding(event);
    if (over !== undefined) {
      this.binds.delete(over);
      this.labels.delete(over);
    }
  }

  /** The item of a loop that ends with an event: of items with one step it is that step's end. */
  private itemEnding({ step, kind }: EventOf<'ended'>): string | undefined {
    if (kind === 'item') return stepNumber(step);
    const item = itemBegunBy(step);
    return item !== undefined && this.loops.get(loopOf(step) ?? '')?.steps === 1 ? item : undefined;
  }

  private bindOf({ name, from }: Read): BoundAt | undefined {
    return from === undefined ? undefined : this.binds.get(itemOf(from))?.get(`${from} ${name}`);
  }

  /** Where a name that an expression read got its value: `kept by arrivals from $.id`. */
  originOf(read: Read): string | undefined {
    const { name, from } = read;
    if (name === '$') return undefined;
    if (name === 'secret' || name === 'setting') return `a ${name}`;
    const bind = this.bindOf(read);
    if (bind) return `kept by ${stepName(bind.step)} from ${bind.text}`;
    const item = asItem(from ?? '');
    const loop = item && this.loops.get(item.loop);
    if (item && loop) return `item ${item.number} of ${loop.text?.replace(/^each \S+\s+in\s+/, '') ?? 'an array'}`;
    return this.run && Object.hasOwn(this.run.inputs, name) ? 'an input' : undefined;
  }

  /** What the innermost item that a step was for is called, where it has a name. */
  labelOf({ step, item }: EventOf<'ended'>): string | undefined {
    return item?.label ?? this.labels.get(itemOf(step));
  }

  /** `each vessel in due` of the loop with a number, `repeat look` of one in rounds. */
  loopText(number: string): string {
    return (this.loops.get(number) ?? this.repeats.get(number))?.text ?? '';
  }

  /** `item 5 of due ('KM 204/5')`: the innermost item that a step was for. */
  itemWords(step: string, { number, label }: ItemRecord): string {
    const loop = this.loops.get(loopOf(step) ?? '');
    const text = loop?.text?.replace(/^each \S+\s+in\s+/, '');
    const list = text !== undefined && text.length > MAX_LIST ? `${text.slice(0, MAX_LIST - 1)}…` : text;
    return `item ${number}${list === undefined ? '' : ` of ${list}`}${label === undefined ? '' : ` (${showValue(label)})`}`;
  }

  /** The origins behind a name, one a line, back to inputs and responses. */
  trail(read: Read, depth = 0): readonly string[] {
    const origin = this.originOf(read);
    if (origin === undefined) return [];
    if (depth > MAX_TRAIL) return [origin];
    const bind = this.bindOf(read);
    if (bind) {
      const further = bind.reads.filter((each) => each.from !== undefined && each.name !== read.name);
      return [origin, ...further.flatMap((each) => this.trail(each, depth + 1).map((line) => `${each.name} ${line}`))];
    }
    const loop = this.loops.get(asItem(read.from ?? '')?.loop ?? '');
    return [origin, ...(loop?.reads ?? []).flatMap((each) => this.trail(each, depth + 1))];
  }
}

/** A recorded value in a few words. */
export function storedBriefly(stored: Stored): string {
  return inWords(stored) ?? showBriefly(fromStored(stored));
}

/** A recorded value as messages show it. */
export function storedShown(stored: Stored): string {
  return inWords(stored) ?? showValue(fromStored(stored));
}

/** What is said of a value instead of showing it: it stands elsewhere, or its text is made for people already. */
function inWords(stored: Stored): string | undefined {
  if ('from' in stored || 'body' in stored) {
    const { type, length } = stored;
    if (length === undefined) return articled(type);
    return type === 'bytes' ? counted(length, 'byte') : counted(length, type === 'object' ? 'member' : 'item');
  }
  if (!('as' in stored)) return undefined;
  if (stored.as === 'bytes') return counted(Math.floor((stored.text.replace(/=+$/, '').length * 3) / 4), 'byte');
  return stored.as === 'duration' || stored.as === 'date-time' ? stored.text : undefined;
}
