import type { Json } from '../value/value.ts';
import type { EventBody } from './events.ts';
import { addLeaves, leafPointers, type Leaf } from './leaves.ts';

/** Events of a kind that are written whole before others are rows: a short journal can be read as it is. */
const WHOLE = 8;
/** Forms that are tried for one event, and names that are remembered. */
const MOST_FORMS = 4;
const MOST_NAMES = 10_000;
/** A form is written again when its rows are so many times more: damage to one line of it loses nothing. */
const AGAIN = 8;

/** What events of one form have in common, and the leaves in which they differ. */
class Form {
  /** Its number in the journal: that of the first event that is written by it. None while it is not written. */
  id: number | undefined;
  /** Events that were written whole. */
  whole = 1;
  private rows = 0;
  private nextCopy = AGAIN;
  readonly leaves: Leaf[] = [];
  private varying: number[] = [];
  private readonly isVarying: boolean[] = [];

  constructor(private readonly of: { [name: string]: Json }) {
    addLeaves(of, of, this.leaves);
  }

  /** The leaves of an event that is built as this form is. */
  leavesOf(body: Json): Leaf[] | undefined {
    const leaves: Leaf[] = [];
    return addLeaves(body, this.of, leaves) ? leaves : undefined;
  }

  /** The places in which leaves differ from the form's, beyond those that are known to. */
  further(leaves: readonly Leaf[]): readonly number[] {
    const found: number[] = [];
    for (let i = 0; i < leaves.length; i++) {
      if (this.isVarying[i] !== true && leaves[i] !== this.leaves[i]) found.push(i);
    }
    return found;
  }

  /** Whether so many of its leaves may differ that little is in common. */
  wouldSayLittle(further: readonly number[]): boolean {
    return (this.varying.length + further.length) * 3 > this.leaves.length * 2;
  }

  extend(further: readonly number[], id: number): void {
    for (const index of further) this.isVarying[index] = true;
    this.varying = [...this.varying, ...further].sort((a, b) => a - b);
    this.id = id;
    this.rows = 0;
    this.nextCopy = AGAIN;
  }

  /** Whether its line is due again. */
  get isDue(): boolean {
    return this.rows === this.nextCopy;
  }

  line(): string {
    if (this.isDue) this.nextCopy *= AGAIN;
    const pointers = leafPointers(this.of);
    const varies = this.varying.map((index) => pointers[index]);
    return JSON.stringify({ form: this.id, varies, of: this.of });
  }

  row(seq: number, at: number, leaves: readonly Leaf[]): string {
    this.rows++;
    const row: (Leaf | undefined)[] = [this.id!, seq, at];
    for (const index of this.varying) row.push(leaves[index]);
    return JSON.stringify(row);
  }
}

/**
 * Writes events as lines. Events of one step are mostly the same: what they have in common is written once, as a form, and of
 * each a row with what differs. An event of a kind that was not seen before, or that is built otherwise, is written whole.
 */
export class LineWriter {
  private groups = new Map<string, Form[]>();
  private readonly names = new Set<string>();

  /** The row of an event, where a form that is written serves as it is; no form changes by asking. */
  row(body: EventBody, seq: number, at: number): string | undefined {
    for (const form of this.groups.get(this.groupOf(body)) ?? NO_FORMS) {
      if (form.id === undefined || form.isDue) continue;
      const leaves = form.leavesOf(body as unknown as Json);
      if (!leaves || form.further(leaves).length > 0) continue;
      this.know(body);
      return form.row(seq, at, leaves);
    }
    return undefined;
  }

  /** The lines of an event: a row, behind its form where that is new; else the event as it is. */
  lines(body: EventBody, seq: number, at: number): readonly string[] {
    const group = this.groupOf(body);
    this.know(body);
    const forms = this.groups.get(group) ?? NO_FORMS;
    for (const form of forms) {
      const leaves = form.leavesOf(body as unknown as Json);
      if (!leaves) continue;
      const further = form.further(leaves);
      if (form.wouldSayLittle(further)) continue;
      if (form.whole++ < WHOLE) return [wholeLine(body, seq, at)];
      const isNew = form.id === undefined || further.length > 0;
      if (isNew) form.extend(further, seq);
      return isNew || form.isDue ? [form.line(), form.row(seq, at, leaves)] : [form.row(seq, at, leaves)];
    }
    this.groups.set(group, [new Form(body as unknown as { [name: string]: Json }), ...forms].slice(0, MOST_FORMS));
    return [wholeLine(body, seq, at)];
  }

  /** Events of one type and name belong together. The first of a name goes with the others of its type. */
  private groupOf(body: EventBody): string {
    const name = nameOf(body);
    return this.names.has(name) ? name : body.type;
  }

  private know(body: EventBody): void {
    if (this.names.size < MOST_NAMES) this.names.add(nameOf(body));
  }

  /** Forgets what was in common: where something that stands in it must not be told any more. */
  forget(): void {
    this.groups = new Map();
  }
}

function wholeLine(body: EventBody, seq: number, at: number): string {
  return JSON.stringify({ seq, at, ...body });
}

function nameOf(body: EventBody): string {
  const key = 'key' in body ? body.key : '';
  if (key === '' || key.endsWith('}') || key.endsWith('/')) return body.type;
  return `${body.type} ${key.slice(key.lastIndexOf('/') + 1)}`;
}

const NO_FORMS: readonly Form[] = [];
