import { pointerKeys } from '../value/json-pointer.ts';
import type { Json } from '../value/value.ts';
import type { JournalEvent } from './events.ts';
import { builtBy, leafPointers, planOf, type Plan } from './leaves.ts';
import { isEvent } from './shape.ts';
import { instant, isMapping, list, text } from './shape-checks.ts';

/** What a line holds beside an event: a form, which rows behind it are read by. */
export const FORM = 'form';

type Form = Readonly<{ plan: Plan; types: readonly string[]; isPlain: boolean }>;

/** Events that are what they should be when their form is, and what differs is of its types. */
const PLAIN: ReadonlySet<unknown> = new Set<JournalEvent['type']>(['sent', 'answered', 'ended', 'opened']);

/** Members of a row before the leaves: the form, `seq` and `at`. */
const HEAD = 3;

/** Reads the lines of a journal. Forms are kept, so that rows are read wherever they are met. */
export class LineReader {
  private readonly forms = new Map<number, Form>();

  /** The event of a line, or that it is a form; nothing where it is damaged, or a row whose form was not seen. */
  read(line: string): JournalEvent | typeof FORM | undefined {
    let value: unknown;
    try {
      value = JSON.parse(line);
    } catch {
      return undefined;
    }
    if (Array.isArray(value)) return this.eventOf(value as Json[]);
    if (isMapping(value) && FORM in value) return this.add(value) ? FORM : undefined;
    return isEvent(value) ? value : undefined;
  }

  private add({ form, varies, of }: Record<string, unknown>): boolean {
    if (!Number.isSafeInteger(form) || !list(text)(varies) || !isMapping(of)) return false;
    if (!isEvent({ ...of, seq: form, at: 0 })) return false;
    const leaves = new Set(leafPointers(of as Json));
    if (!varies.every((pointer) => leaves.has(pointer))) return false;
    const slots = new Map(varies.map((pointer, slot) => [pointer, slot] as const));
    const plan = planOf(of as Json, slots);
    const types = varies.map((pointer) => typeAt(of as Json, pointer));
    this.forms.set(form as number, { plan, types, isPlain: PLAIN.has(of['type']) });
    return true;
  }

  private eventOf(row: readonly Json[]): JournalEvent | undefined {
    const [id, seq, at] = row;
    const form = this.forms.get(id as number);
    if (!form || row.length !== HEAD + form.types.length) return undefined;
    for (let i = 0; i < form.types.length; i++) if (typeof row[HEAD + i] !== form.types[i]) return undefined;
    if (!Number.isSafeInteger(seq) || !instant(at)) return undefined;
    const event = { seq, at, ...(builtBy(form.plan, row, HEAD) as object) };
    return form.isPlain || isEvent(event) ? (event as JournalEvent) : undefined;
  }
}

function typeAt(value: Json, pointer: string): string {
  let found: unknown = value;
  for (const key of pointerKeys(pointer)) found = (found as Readonly<Record<string, unknown>>)[key];
  return typeof found;
}
