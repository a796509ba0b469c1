import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { itemsOf, stepName } from '../../core/journal/address.ts';
import { counted } from '../../core/value/show.ts';

/** Calls that are listed; of more it is said how many there are. */
const MAX_LISTED = 10;

/** Calls that needed several attempts, and how each attempt went: `level, item 9: 429, then 200`. */
export class Attempts {
  /** By exchange: why another attempt followed. */
  private readonly again = new Map<number, string>();
  private readonly listed: string[] = [];
  private count = 0;

  add(event: JournalEvent): void {
    if (event.type === 'again') this.again.set(event.x, event.why);
  }

  /** A call ended; `statusOf` is asked before its exchanges are forgotten. */
  ended(event: EventOf<'ended'>, label: string | undefined, statusOf: (x: number) => number | undefined): void {
    const { x = [], step } = event;
    if (!x.some((each) => this.again.has(each))) return;
    const sequences: string[] = [];
    let reasons: string[] = [];
    for (const each of x) {
      const why = this.again.get(each);
      this.again.delete(each);
      if (why !== undefined) reasons.push(why);
      else if (reasons.length > 0) {
        sequences.push(`${reasons.join(', ')}, then ${statusOf(each) ?? 'no response'}`);
        reasons = [];
      }
    }
    if (reasons.length > 0) sequences.push(`${reasons.join(', ')}, then none`);
    this.count++;
    if (this.listed.length === MAX_LISTED) return;
    const items = itemsOf(step);
    const which = label !== undefined ? ` of ${label}` : items === '' ? '' : `, item ${items}`;
    this.listed.push(`${stepName(step)}${which}: ${sequences.join('; ')}`);
  }

  /** A heading and a line for each call; none when every call needed one attempt. */
  lines(): readonly string[] {
    if (this.count === 0) return [];
    const rest = this.count - this.listed.length;
    return [
      `${counted(this.count, 'call')} needed several attempts`,
      ...this.listed.map((line) => `  ${line}`),
      ...(rest > 0 ? [`  and ${counted(rest, 'more call')}`] : []),
    ];
  }
}
