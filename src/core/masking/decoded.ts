/** A text with what is escaped in it decoded, and where each character of it stands in the text itself. */
export type Decoded = Readonly<{ text: string; from: readonly number[]; to: readonly number[] }>;

/** Whether there may be anything to decode. */
export const ESCAPED = /\\u[0-9a-f]{4}|\\x[0-9a-f]{2}|&#|&(?:amp|lt|gt|quot|apos);|%[0-9a-f]{2}/i;
const ESCAPES =
  /\\u([0-9a-f]{4})|\\x([0-9a-f]{2})|\\(["'\\/bfnrt])|&#x([0-9a-f]{1,6});|&#([0-9]{1,7});|&(amp|lt|gt|quot|apos);|((?:%[0-9a-f]{2})+)/gi;
const NAMED: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };
const SHORT: Readonly<Record<string, string>> = { b: '\b', f: '\f', n: '\n', r: '\r', t: '\t' };

/** Decodes escapes of JSON, of XML in any style, and percent-encoding, once; nothing where there are none. */
export function decodedOnce(text: string): Decoded | undefined {
  if (!ESCAPED.test(text)) return undefined;
  let decoded = '';
  const from: number[] = [];
  const to: number[] = [];
  const add = (piece: string, start: number, end: number, isAsIs: boolean): void => {
    for (let i = 0; i < piece.length; i++) {
      from.push(isAsIs ? start + i : start);
      to.push(isAsIs ? start + i + 1 : end);
    }
    decoded += piece;
  };
  let at = 0;
  for (const match of text.matchAll(ESCAPES)) {
    add(text.slice(at, match.index), at, match.index, true);
    at = match.index + match[0].length;
    add(meaningOf(match), match.index, at, false);
  }
  add(text.slice(at), at, text.length, true);
  return { text: decoded, from, to };
}

function meaningOf([whole, unicode, byte, short, hex, decimal, name, percent]: readonly (
  string | undefined
)[]): string {
  const code = unicode ?? byte ?? hex;
  if (code !== undefined || decimal !== undefined) {
    const point = code === undefined ? Number(decimal) : Number.parseInt(code, 16);
    return point <= 0x10ffff ? String.fromCodePoint(point) : whole!;
  }
  if (short !== undefined) return SHORT[short.toLowerCase()] ?? short;
  if (name !== undefined) return NAMED[name.toLowerCase()]!;
  const bytes = percent!.split('%').slice(1);
  return new TextDecoder().decode(Uint8Array.from(bytes, (each) => Number.parseInt(each, 16)));
}
