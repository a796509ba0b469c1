import type { Scanner } from './scanner.ts';

const PLAIN = {
  '"': /[^"\\\u0000-\u001f\ud800-\udfff]+|[\ud800-\udbff][\udc00-\udfff]/y,
  "'": /[^'\\\u0000-\u001f\ud800-\udfff]+|[\ud800-\udbff][\udc00-\udfff]/y,
};
const UNIT = /[0-9A-Fa-f]{4}/y;
const ESCAPES: Readonly<Record<string, string>> = {
  b: '\b',
  f: '\f',
  n: '\n',
  r: '\r',
  t: '\t',
  '/': '/',
  '\\': '\\',
};

/**
 * A quoted text, RFC 9535 section 2.3.1.1; the scanner stands at the opening quote.
 *
 *   string-literal = %x22 *double-quoted %x22 / %x27 *single-quoted %x27
 */
export function parseString(scanner: Scanner): string {
  const start = scanner.at;
  const quote = scanner.peek() as '"' | "'";
  scanner.at++;
  let text = '';
  let piece: string | undefined = '';
  for (;;) {
    text += piece;
    piece = '';
    if (scanner.take(quote)) return text;
    if (scanner.ended) scanner.fail([start, scanner.at], 'This string is not closed', `Add ${quote} at its end.`);
    if (scanner.peek() === '\\') text += parseEscape(scanner, quote);
    else if ((piece = scanner.match(PLAIN[quote])) === undefined) refuseCharacter(scanner);
  }
}

function refuseCharacter(scanner: Scanner): never {
  const code = scanner.text.charCodeAt(scanner.at).toString(16).padStart(4, '0');
  scanner.fail(
    [scanner.at, scanner.at + 1],
    `The character U+${code.toUpperCase()} cannot be part of a string`,
    `Write it as \\u${code}.`,
  );
}

function parseEscape(scanner: Scanner, quote: string): string {
  const start = scanner.at++;
  const sign = scanner.peek();
  if (sign === quote || Object.hasOwn(ESCAPES, sign)) {
    scanner.at++;
    return sign === quote ? quote : ESCAPES[sign]!;
  }
  if (sign === 'u') return parseUnicode(scanner, start);
  return scanner.fail(
    [start, Math.min(start + 2, scanner.end)],
    `"\\${sign}" is not an escape`,
    `The escapes are \\${quote} \\\\ \\/ \\b \\f \\n \\r \\t and \\u with four hexadecimal digits.`,
  );
}

/** `\uXXXX`, or two of them for a character beyond U+FFFF; half of such a pair alone is refused. */
function parseUnicode(scanner: Scanner, start: number): string {
  const high = parseUnit(scanner, start);
  if (high < 0xd800 || high > 0xdfff) return String.fromCharCode(high);
  if (high < 0xdc00 && scanner.starts('\\u')) {
    scanner.at++;
    const low = parseUnit(scanner, start);
    if (low >= 0xdc00 && low <= 0xdfff) return String.fromCharCode(high, low);
  }
  return scanner.fail(
    [start, scanner.at],
    'This escape is half of a surrogate pair',
    'Write both halves, as in \\ud83d\\ude00.',
  );
}

function parseUnit(scanner: Scanner, start: number): number {
  scanner.at++;
  const digits = scanner.match(UNIT);
  if (digits === undefined) scanner.fail([start, scanner.at], '"\\u" is followed by four hexadecimal digits');
  return Number.parseInt(digits, 16);
}
