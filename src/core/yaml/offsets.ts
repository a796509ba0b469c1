import type { Range } from '../diagnostics/problem.ts';

/**
 * Where each character of a scalar's value stands in the file, for scalars on one line and literal blocks; `undefined`
 * when the two cannot be matched character by character, as in folded text. `raw` is the scalar as written.
 */
export function offsetsOf(raw: string, start: number, value: string): ((range: Range) => Range) | undefined {
  if (raw === value) return ([from, to]) => [start + from, start + to];
  const offsets = raw.startsWith('|')
    ? blockOffsets(raw, value)
    : raw.includes('\n')
      ? undefined
      : inlineOffsets(raw, value);
  if (!offsets) return undefined;
  return ([from, to]) => {
    const first = offsets[Math.min(from, offsets.length - 1)]!;
    const last = to > from ? (offsets[to] ?? offsets.at(-1)!) : first;
    return [start + first, start + Math.max(last, first)];
  };
}

/** Offsets of every character of the value, and one more for its end. */
function inlineOffsets(raw: string, value: string): readonly number[] | undefined {
  const quote = raw[0];
  if (quote !== '"' && quote !== "'") return undefined;
  const offsets: number[] = [];
  const unit = quote === "'" ? /''|[^']/y : /\\(?:x[0-9A-Fa-f]{2}|u[0-9A-Fa-f]{4}|U[0-9A-Fa-f]{8}|[^\n])|[^"\\]/y;
  let at = 1;
  while (at < raw.length - 1) {
    unit.lastIndex = at;
    const piece = unit.exec(raw)?.[0];
    if (piece === undefined) return undefined;
    offsets.push(at);
    // `\U0001F600` is two UTF-16 units of the value.
    if (piece.startsWith('\\U') && Number.parseInt(piece.slice(2), 16) > 0xffff) offsets.push(at);
    at += piece.length;
  }
  offsets.push(at);
  return offsets.length === value.length + 1 ? offsets : undefined;
}

/** A literal block keeps its lines; only the indentation before each is not part of the value. */
function blockOffsets(raw: string, value: string): readonly number[] | undefined {
  const offsets: number[] = [];
  let at = raw.indexOf('\n') + 1;
  for (const line of value.split('\n')) {
    const found = raw.indexOf(line, at);
    if (found < 0) return undefined;
    for (let i = 0; i <= line.length; i++) offsets.push(found + i);
    at = found + line.length + 1;
  }
  return offsets.slice(0, value.length + 1);
}
