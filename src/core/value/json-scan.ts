/** What must be known of a JSON text before it is decoded. */
type JsonScan = Readonly<{
  /** Offset of the bracket that goes deeper than allowed, or -1. */
  tooDeepAt: number;
  /** Whether a number in it would not be given back as written by the engine's own parser. */
  hasExactNumbers: boolean;
}>;

const QUOTE = 0x22;
const BACKSLASH = 0x5c;

/**
 * One pass over the text, outside strings: how deep it nests (so that no parser is led to exhaust the stack), and
 * whether it holds numbers whose text matters: 16 digits or more, a fraction that ends in 0, an exponent, `-0`.
 */
// eslint-disable-next-line complexity -- a branch for each sign of the grammar
export function scanJson(text: string, maxDepth: number): JsonScan {
  let depth = 0;
  let hasExactNumbers = false;
  const end = text.length;
  let i = 0;
  while (i < end) {
    const code = text.charCodeAt(i);
    if (code === QUOTE) {
      i = endOfString(text, i + 1);
    } else if (code === 0x5b || code === 0x7b) {
      if (++depth > maxDepth) return { tooDeepAt: i, hasExactNumbers };
      i++;
    } else if (code === 0x5d || code === 0x7d) {
      depth--;
      i++;
    } else if (code === 0x2d || (code >= 0x30 && code <= 0x39)) {
      const start = i++;
      while (i < end && isNumberCode(text.charCodeAt(i))) i++;
      if (!hasExactNumbers) hasExactNumbers = isExact(text, start, i);
    } else {
      i++;
    }
  }
  return { tooDeepAt: -1, hasExactNumbers };
}

/** Offset behind the closing quote; `indexOf` finds it natively, which is much faster than looking at each unit. */
function endOfString(text: string, from: number): number {
  let quote = text.indexOf('"', from);
  while (quote > 0 && text.charCodeAt(quote - 1) === BACKSLASH) {
    let before = quote - 2;
    while (before >= from && text.charCodeAt(before) === BACKSLASH) before--;
    if ((quote - before) % 2 === 1) break;
    quote = text.indexOf('"', quote + 1);
  }
  return quote < 0 ? text.length : quote + 1;
}

function isNumberCode(code: number): boolean {
  return (code >= 0x30 && code <= 0x39) || code === 0x2e || code === 0x2d || code === 0x2b || (code | 0x20) === 0x65;
}

function isExact(text: string, start: number, end: number): boolean {
  if (end - start >= 16) return true;
  let fraction = false;
  for (let i = start; i < end; i++) {
    const code = text.charCodeAt(i);
    if (code === 0x2e) fraction = true;
    else if ((code | 0x20) === 0x65) return true;
  }
  if (fraction && text.charCodeAt(end - 1) === 0x30) return true;
  return text.charCodeAt(start) === 0x2d && text.charCodeAt(start + 1) === 0x30 && end - start === 2;
}
