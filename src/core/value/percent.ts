const UNRESERVED = /[A-Za-z0-9\-._~]/;
const ALL_RESERVED_OR_UNRESERVED = /^[A-Za-z0-9\-._~:/?#[\]@!$&'()*+,;=]*$/;
const RESERVED_OR_UNRESERVED = /[A-Za-z0-9\-._~:/?#[\]@!$&'()*+,;=]/;

/** Percent-encodes everything but unreserved characters, as UTF-8 (RFC 3986 section 2). `%` is data and becomes `%25`. */
export function encodeUnreserved(text: string): string {
  if (/^[A-Za-z0-9\-._~]*$/.test(text)) return text;
  return encode(text, (character) => UNRESERVED.test(character));
}

/** Keeps reserved characters and existing `%XX` too: the `+` and `#` operators of RFC 6570, section 3.2.1. */
export function encodeReserved(text: string): string {
  if (ALL_RESERVED_OR_UNRESERVED.test(text)) return text;
  return text
    .split(/(%[0-9A-Fa-f]{2})/)
    .map((part, i) => (i % 2 === 1 ? part : encode(part, (character) => RESERVED_OR_UNRESERVED.test(character))))
    .join('');
}

/** A text without its percent-encoding; one that is no such encoding of UTF-8 stays as it is. */
export function percentDecoded(text: string): string {
  return decoded(text) ?? text;
}

/** The same of a name or value of a query or a form, in which `+` is a blank (WHATWG URL section 5.1). */
export function formDecoded(text: string): string {
  return decoded(text.replaceAll('+', ' ')) ?? text;
}

function decoded(text: string): string | undefined {
  try {
    return decodeURIComponent(text);
  } catch {
    return undefined;
  }
}

function encode(text: string, keeps: (character: string) => boolean): string {
  let result = '';
  for (const character of text.toWellFormed()) {
    result += keeps(character) ? character : encodeURIComponent(character).replace(/[!'()*]/g, hexOf);
  }
  return result;
}

function hexOf(character: string): string {
  return `%${character.charCodeAt(0).toString(16).toUpperCase()}`;
}
