import type { Bind, EventOf, ItemRecord, JournalEvent, Read, Stored } from '../journal/events.ts';
import { fromStored } from '../journal/stored.ts';
import { counted, showBriefly, showValue } from '../value/show.ts';

/** What was bound in a run so far, gathered from its events: where each value came from. */
export class History {
  private run: EventOf<'run'> | undefined;
  private readonly binds = new Map<string, Bind & { step: string }>();
  private readonly loops = new Map<string, EventOf<'opened'>>();
  private readonly labels = new Map<string, string>();

  add(event: JournalEvent): void {
    if (event.type === 'run') this.run = event;
    if (event.type === 'opened' && event.kind === 'each') this.loops.set(stepNumber(event.step), event);
    if (event.type === 'opened' && event.item?.label !== undefined) this.labels.set(event.step, event.item.label);
    if (event.type !== 'ended') return;
    for (const bind of event.binds ?? []) this.binds.set(`${event.step} ${bind.name}`, { ...bind, step: event.step });
  }

  /** Where a name that an expression read got its value: `kept by arrivals from $.id`. */
  originOf({ name, from }: Read): string | undefined {
    if (name === '$') return undefined;
    if (name === 'secret' || name === 'setting') return `a ${name}`;
    const bind = from === undefined ? undefined : this.binds.get(`${from} ${name}`);
    if (bind) return `kept by ${stepName(bind.step)} from ${bind.text}`;
    const item = from === undefined ? null : /^(.*)#(\d+)$/.exec(from);
    const loop = item && this.loops.get(item[1]!);
    if (item && loop) return `item ${item[2]} of ${loop.text?.replace(/^each \S+\s+in\s+/, '') ?? 'a list'}`;
    return this.run && Object.hasOwn(this.run.inputs, name) ? 'an input' : undefined;
  }

  /** `each vessel in due` of the loop with a number. */
  loopText(number: string): string {
    return this.loops.get(number)?.text ?? '';
  }

  /** `item 5 of due ('KM 204/5')`: the innermost item that a step was for. */
  itemWords(step: string, { number, label }: ItemRecord): string {
    const loop = this.loops.get(loopOf(step) ?? '');
    const list = loop?.text?.replace(/^each \S+\s+in\s+/, '');
    return `item ${number}${list === undefined ? '' : ` of ${list}`}${label === undefined ? '' : ` (${showValue(label)})`}`;
  }

  /** The origins behind a name, one a line, back to inputs and responses. */
  trail(read: Read, depth = 0): readonly string[] {
    const origin = this.originOf(read);
    const bind = read.from === undefined ? undefined : this.binds.get(`${read.from} ${read.name}`);
    const loop = this.loops.get(read.from?.replace(/#\d+$/, '') ?? '');
    if (origin !== undefined && loop && !bind && depth <= 8) {
      return [origin, ...(loop.reads ?? []).flatMap((each) => this.trail(each, depth + 1))];
    }
    if (origin === undefined || !bind || depth > 8) return origin === undefined ? [] : [origin];
    const further = bind.reads.filter((each) => each.from !== undefined && each.name !== read.name);
    return [origin, ...further.flatMap((each) => this.trail(each, depth + 1).map((line) => `${each.name} ${line}`))];
  }
}

/** The number of the innermost loop that a step is in: `2` of `2#5.2/watch-clearance`. */
export function loopOf(address: string): string | undefined {
  return /^(.*)#\d+(?:\.[^#]*)?$/.exec(stepNumber(address))?.[1];
}

/** `watch-clearance` of `2#5.2/watch-clearance`. */
export function stepName(address: string): string {
  return address.slice(address.indexOf('/') + 1);
}

/** `2#5.2` of `2#5.2/watch-clearance`. */
export function stepNumber(address: string): string {
  const slash = address.indexOf('/');
  return slash < 0 ? address : address.slice(0, slash);
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
    const { kind, length } = stored;
    if (length === undefined) return `a ${kind}`;
    return kind === 'bytes' ? counted(length, 'byte') : counted(length, kind === 'object' ? 'member' : 'item');
  }
  if (!('as' in stored)) return undefined;
  if (stored.as === 'bytes') return counted(Math.floor((stored.text.replace(/=+$/, '').length * 3) / 4), 'byte');
  return stored.as === 'duration' || stored.as === 'date-time' ? stored.text : undefined;
}

/** The numbers of the items and rounds that a step is in, the outermost first: `5.2` of `2#5.1#2.1/look`. */
export function itemsOf(address: string): string {
  return [...stepNumber(address).matchAll(/#(\d+)/g)].map(([, number]) => number).join('.');
}
