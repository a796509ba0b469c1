import { RESERVED } from '../chain/names.ts';
import { isName } from '../path/scanner.ts';
import type { Range } from '../diagnostics/problem.ts';
import type { Occurrence, Symbols } from './symbols.ts';

/** The occurrence of a name at an offset. */
export function occurrenceAt(symbols: Symbols, offset: number): Occurrence | undefined {
  return symbols.occurrences.find(({ range: [start, end] }) => offset >= start && offset <= end);
}

/** Where a symbol stands in its file. */
export function placesOf({ occurrences }: Symbols, symbol: number): readonly Range[] {
  return occurrences.filter((each) => each.symbol === symbol).map(({ range }) => range);
}

/** Why a symbol cannot be called so; nothing where it can. */
export function refusedName(symbols: Symbols, symbol: number, to: string): string | undefined {
  if (!isName(to)) return `"${to}" is not a valid name: a name consists of letters, digits and _`;
  if (RESERVED.has(to)) return `"${to}" has a meaning of its own`;
  const isTaken = symbols.occurrences.some(({ symbol: other }) => other !== symbol && symbols.nameOf(other) === to);
  if (isTaken) return `This chain has another name "${to}"`;
  const inQuery = symbols.uses.find(
    ({ path, source }) => isParameter(source.text, path.range[0]) && isIn(symbols, symbol, source.locate(path.range)),
  );
  if (!inQuery) return undefined;
  const name = symbols.nameOf(symbol);
  return `"${name}" is also the name of a query parameter that is sent; write it as query: {${name}: "{${name}}"} first`;
}

/** Whether a name of a target is sent as the name of its parameter (RFC 6570 section 3.2.8). */
function isParameter(text: string, at: number): boolean {
  const open = text.lastIndexOf('{', at);
  return open >= 0 && /^[?&;]/.test(text.slice(open + 1)) && !text.slice(open, at).includes('}');
}

function isIn({ occurrences }: Symbols, symbol: number, [start]: Range): boolean {
  return occurrences.some((each) => each.symbol === symbol && each.range[0] === start);
}
