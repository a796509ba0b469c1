import type { Bind, EventOf, JournalEvent, Read, Stored } from '../journal/events.ts';
import { fromStored } from '../journal/stored.ts';
import { counted, showBriefly, showValue } from '../value/show.ts';

/** What was bound in a run so far, gathered from its events: where each value came from. */
export class History {
  private run: EventOf<'run'> | undefined;
  private readonly binds = new Map<string, Bind & { step: string }>();

  add(event: JournalEvent): void {
    if (event.type === 'run') this.run = event;
    if (event.type !== 'ended') return;
    for (const bind of event.binds ?? []) this.binds.set(`${event.step} ${bind.name}`, { ...bind, step: event.step });
  }

  /** Where a name that an expression read got its value: `kept by arrivals from $.id`. */
  originOf({ name, from }: Read): string | undefined {
    if (name === '$') return undefined;
    if (name === 'secret' || name === 'setting') return `a ${name}`;
    const bind = from === undefined ? undefined : this.binds.get(`${from} ${name}`);
    if (bind) return `kept by ${stepName(bind.step)} from ${bind.text}`;
    return this.run && Object.hasOwn(this.run.inputs, name) ? 'an input' : undefined;
  }

  /** The origins behind a name, one a line, back to inputs and responses. */
  trail(read: Read, depth = 0): readonly string[] {
    const origin = this.originOf(read);
    const bind = read.from === undefined ? undefined : this.binds.get(`${read.from} ${read.name}`);
    if (origin === undefined || !bind || depth > 8) return origin === undefined ? [] : [origin];
    const further = bind.reads.filter((each) => each.from !== undefined && each.name !== read.name);
    return [origin, ...further.flatMap((each) => this.trail(each, depth + 1).map((line) => `${each.name} ${line}`))];
  }
}

/** `watch-clearance` of `2#5.2/watch-clearance`. */
export function stepName(address: string): string {
  return address.slice(address.indexOf('/') + 1);
}

/** `2#5.2` of `2#5.2/watch-clearance`. */
export function stepNumber(address: string): string {
  return address.slice(0, address.indexOf('/'));
}

/** A recorded value in a few words. */
export function storedBriefly(stored: Stored): string {
  if ('from' in stored)
    return stored.length === undefined
      ? `a ${stored.kind}`
      : counted(stored.length, stored.kind === 'object' ? 'member' : 'item');
  if ('as' in stored && (stored.as === 'duration' || stored.as === 'date-time')) return stored.text;
  return showBriefly(fromStored(stored));
}

/** A recorded value as messages show it. */
export function storedShown(stored: Stored): string {
  if ('from' in stored) return storedBriefly(stored);
  if ('as' in stored && (stored.as === 'duration' || stored.as === 'date-time')) return stored.text;
  return showValue(fromStored(stored));
}
