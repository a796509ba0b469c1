import type { LinesFile } from '../ports.ts';
import { readJson } from './json-read.ts';
import { writeJson } from './json-write.ts';
import { ExactNumber, SpilledList, NonJsonValue, type Items, type Value } from './value.ts';

/** Items up to which a list is held in memory whatever is done with it. */
export const MAX_HELD = 10_000;

/** Makes of an item as it was read the one that is seen, such as a row with its cells typed. */
type Seen = (item: Value) => Value;

/**
 * Collects a list item by item. With a place for lines, what is beyond `MAX_HELD` items goes there instead of memory, and
 * the list that comes of it can only be gone over.
 */
export class ListBuilder {
  private held: Value[] = [];
  private lines: LinesFile | undefined;
  private readonly beside = new Map<number, Value>();
  private length = 0;

  constructor(
    private readonly open: (() => LinesFile) | undefined,
    private readonly seen: Seen = (item) => item,
    /** Items from which on none is held. */
    private readonly maxHeld = MAX_HELD,
  ) {}

  add(item: Value): void {
    this.length++;
    if (this.lines) return this.write(this.lines, item, this.length - 1);
    this.held.push(item);
    if (this.open && this.held.length > this.maxHeld) this.spill(this.open());
  }

  finish(): Items {
    const { lines, held, seen, length, beside } = this;
    if (!lines) return held.map(seen);
    const file = { ...lines.finish(), ...(beside.size > 0 ? { masked: true as const } : {}) };
    return spilledListOf(lines, length, file, seen, beside);
  }

  private spill(lines: LinesFile): void {
    this.lines = lines;
    this.held.forEach((item, index) => this.write(lines, item, index));
    this.held = [];
  }

  /** What a line cannot hold, and what is secret, stays in memory. */
  private write(lines: LinesFile, item: Value, index: number): void {
    const line = lineOf(item);
    const isWritten = lines.add(line ?? '') && line !== undefined;
    if (!isWritten) this.beside.set(index, item);
  }
}

/** A list of lines that are there already, but for items `beside` them. */
export function spilledListOf(
  lines: Pick<LinesFile, 'pieces'>,
  length: number,
  file: SpilledList['file'],
  seen: Seen = (item) => item,
  beside: ReadonlyMap<number, Value> = new Map(),
): SpilledList {
  async function* pieces(): AsyncGenerator<readonly Value[]> {
    let index = 0;
    for await (const piece of lines.pieces()) {
      yield piece.map((line) => seen(beside.get(index++) ?? valueOf(line)));
    }
  }
  return new SpilledList(pieces, length, file);
}

function valueOf(line: string): Value {
  const read = readJson(line);
  return read.ok ? read.value : null;
}

/** A value as a line of JSON that gives it back as it was; nothing for one that JSON has no word for. */
function lineOf(value: Value): string | undefined {
  const kind = kindOf(value);
  return kind === 'other' ? undefined : kind === 'plain' ? JSON.stringify(value) : writeJson(value);
}

/** Whether the engine's own JSON gives a value back, or with numbers that it would change, or no JSON does. */
function kindOf(value: Value): 'plain' | 'exact' | 'other' {
  if (typeof value === 'bigint') return 'exact';
  if (typeof value !== 'object' || value === null) return 'plain';
  if (value instanceof NonJsonValue) return value instanceof ExactNumber ? 'exact' : 'other';
  let kind: 'plain' | 'exact' = 'plain';
  for (const name in value) {
    const inner = kindOf((value as Readonly<Record<string, Value>>)[name]!);
    if (inner === 'other') return inner;
    if (inner === 'exact') kind = inner;
  }
  return kind;
}
