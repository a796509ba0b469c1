import { iconvLite } from '../packages.ts';

/** Why bytes are no text, or a text is not what it should be. */
export type DecodeProblem = Readonly<{
  code: 'not-decodable' | 'unknown-charset' | 'over-limit';
  message: string;
  advice?: string;
}>;

type DecodedText =
  Readonly<{ text: string; problem?: undefined }> | Readonly<{ text?: undefined; problem: DecodeProblem }>;

const utf8 = new TextDecoder('utf-8', { fatal: true });

/**
 * Text from bytes. Labels are those of the WHATWG Encoding Standard; a byte-order mark wins over the label. UTF-8 and
 * UTF-16 are decoded by the platform and refused where they are invalid; other charsets by iconv-lite, since Node's
 * own decoder is wrong for bytes 0x80 to 0x9F of windows-1252. Never throws.
 */
export function decodeText(bytes: Uint8Array, label: string | undefined): DecodedText {
  const charset = markOf(bytes) ?? (label === undefined ? 'utf-8' : charsetOf(label));
  if (charset === undefined) {
    const message = `The body declares the charset "${label}", which is not supported`;
    return { problem: { code: 'unknown-charset', message } };
  }
  if (charset === 'utf-8') return strictly(utf8, bytes, charset);
  if (charset.startsWith('utf-16')) return strictly(new TextDecoder(charset, { fatal: true }), bytes, charset);
  return { text: iconvLite().decode(bytes as Buffer, charset) };
}

/** How a text stands in bytes: in which charset, and whether a byte-order mark is before it. */
export type TextForm = Readonly<{ charset: string; hasMark: boolean }>;

export const PLAIN_TEXT: TextForm = { charset: 'utf-8', hasMark: false };

/** The form of a text of which these are the first bytes; nothing for a label that is not known. */
export function textFormOf(bytes: Uint8Array, label: string | undefined): TextForm | undefined {
  const marked = markOf(bytes);
  const charset = marked ?? (label === undefined ? PLAIN_TEXT.charset : charsetOf(label));
  return charset === undefined ? undefined : { charset, hasMark: marked !== undefined };
}

/**
 * A text in the form of the one before it, or at the start of a file of that form. Of what the charset has no sign for
 * nothing is written: then it gives the first such character.
 */
export function encodeText(
  text: string,
  { charset, hasMark }: TextForm,
  isStart: boolean,
): Readonly<{ bytes: string | Uint8Array }> | Readonly<{ strange: string }> {
  const marked = hasMark && isStart ? `\ufeff${text}` : text;
  if (charset === PLAIN_TEXT.charset) return { bytes: marked };
  const bytes = iconvLite().encode(marked, charset);
  const back = iconvLite().decode(bytes, charset, { stripBOM: false });
  if (back === marked) return { bytes };
  const strange = [...marked].find(
    (character) => iconvLite().decode(iconvLite().encode(character, charset), charset) !== character,
  );
  return { strange: strange ?? text };
}

/** Thrown for content in pieces that is not what its charset says. */
export class DecodeFault extends Error {
  constructor(readonly problem: DecodeProblem) {
    super(problem.message);
  }
}

/** The same for content that comes in pieces. Throws `DecodeFault`; what was decoded before was given already. */
export async function* decodePieces(
  pieces: AsyncIterable<Uint8Array>,
  label: string | undefined,
): AsyncGenerator<string> {
  let decode: ((piece?: Uint8Array) => string) | undefined;
  let before = 0;
  for await (const piece of pieces) {
    decode ??= decoderFor(markOf(piece) ?? (label === undefined ? 'utf-8' : charsetOf(label)), label);
    try {
      yield decode(piece);
    } catch {
      throw invalid(before + firstInvalid(piece), piece.subarray(firstInvalid(piece)));
    }
    before += piece.length;
  }
  try {
    if (decode) yield decode();
  } catch {
    throw invalid(before, new Uint8Array());
  }
}

function decoderFor(charset: string | undefined, label: string | undefined): (piece?: Uint8Array) => string {
  if (charset === undefined) {
    throw new DecodeFault({ code: 'unknown-charset', message: `The charset "${label}" is not supported` });
  }
  if (charset === 'utf-8' || charset.startsWith('utf-16')) {
    const decoder = new TextDecoder(charset, { fatal: true });
    return (piece) => decoder.decode(piece, { stream: piece !== undefined });
  }
  const decoder = iconvLite().getDecoder(charset);
  return (piece) => (piece ? decoder.write(piece as Buffer) : (decoder.end() ?? ''));
}

function invalid(offset: number, from: Uint8Array): DecodeFault {
  const around = [...from.subarray(0, 8)].map((byte) => byte.toString(16).padStart(2, '0')).join(' ');
  const message = `It is not valid text: byte ${offset + 1} begins ${around}`;
  const advice = 'Declare its charset, for example charset: windows-1252.';
  return new DecodeFault({ code: 'not-decodable', message, advice });
}

function strictly(decoder: InstanceType<typeof TextDecoder>, bytes: Uint8Array, charset: string): DecodedText {
  try {
    return { text: decoder.decode(bytes) };
  } catch {
    const offset = charset === 'utf-8' ? firstInvalid(bytes) : bytes.length;
    const around = [...bytes.subarray(offset, offset + 8)].map((byte) => byte.toString(16).padStart(2, '0')).join(' ');
    const message = `The body is not valid ${charset.toUpperCase()}: byte ${offset + 1} begins ${around}`;
    return {
      problem: { code: 'not-decodable', message, advice: 'The server may have sent another charset than it declares.' },
    };
  }
}

/** Offset of the first byte that no UTF-8 text has there: the longest prefix that decodes, found by halving. */
function firstInvalid(bytes: Uint8Array): number {
  let valid = 0;
  let invalid = bytes.length;
  while (invalid - valid > 1) {
    const middle = (valid + invalid) >> 1;
    // `stream` lets a character be cut off at the end; what is before it is valid.
    const isValid = decodes(bytes.subarray(0, middle));
    if (isValid) valid = middle;
    else invalid = middle;
  }
  return valid;
}

function decodes(bytes: Uint8Array): boolean {
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream: true });
    return true;
  } catch {
    return false;
  }
}

function markOf(bytes: Uint8Array): string | undefined {
  if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) return 'utf-8';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  return bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : undefined;
}

/** Encodings by their labels: servers say the same few again and again. */
const encodings = new Map<string, string>();
const MAX_ENCODINGS = 100;

function charsetOf(label: string): string | undefined {
  let encoding = encodings.get(label);
  if (encoding !== undefined) return encoding;
  try {
    ({ encoding } = new TextDecoder(label));
  } catch {
    return undefined;
  }
  if (encodings.size < MAX_ENCODINGS) encodings.set(label, encoding);
  return encoding;
}
