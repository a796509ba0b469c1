import { readNumber } from './numbers.ts';
import { scanJson } from './json-scan.ts';
import { defineMember, type Value } from './value.ts';

type JsonOutcome =
  | Readonly<{ ok: true; value: Value }>
  | Readonly<{ ok: false; reason: 'syntax' | 'too-deep' | 'number-range'; offset: number; message: string }>;

/** Levels of nesting that a JSON text may have. Stops texts made to exhaust the stack of whatever walks them. */
const MAX_JSON_DEPTH = 512;

/**
 * Reads a JSON text (RFC 8259). Numbers keep their source text where JSON's shortest form would differ, integers
 * beyond ±(2^53-1) stay exact. A byte-order mark is skipped; of double member names the last counts. Never throws.
 */
export function readJson(text: string, maxDepth: number = MAX_JSON_DEPTH): JsonOutcome {
  const source = text.charCodeAt(0) === 0xfeff ? text.slice(1) : text;
  const scan = scanJson(source, maxDepth);
  if (scan.tooDeepAt >= 0) {
    return fail('too-deep', scan.tooDeepAt, `nested more than ${maxDepth} levels deep`);
  }
  if (!scan.hasExactNumbers) {
    try {
      return { ok: true, value: JSON.parse(source) as Value };
    } catch {
      // The engine's message has no reliable place; our own reader below finds it.
    }
  }
  try {
    return { ok: true, value: new JsonReader(source).document() };
  } catch (error) {
    if (error instanceof JsonFault) return fail(error.reason, error.offset, error.message);
    throw error;
  }
}

function fail(reason: 'syntax' | 'too-deep' | 'number-range', offset: number, message: string): JsonOutcome {
  return { ok: false, reason, offset, message };
}

class JsonFault extends Error {
  constructor(
    readonly offset: number,
    message: string,
    readonly reason: 'syntax' | 'number-range' = 'syntax',
  ) {
    super(message);
  }
}

const NUMBER = /-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?/y;
const STRING = /"(?:[^"\\\u0000-\u001f]|\\(?:["\\/bfnrt]|u[0-9a-fA-F]{4}))*"/y;
const BLANK = /[ \t\n\r]*/y;

/** Recursive descent; the scan before it has bounded the depth. */
class JsonReader {
  private at = 0;
  constructor(private readonly text: string) {}

  document(): Value {
    const value = this.value();
    this.blank();
    if (this.at < this.text.length) throw new JsonFault(this.at, 'unexpected text after the value');
    return value;
  }

  private value(): Value {
    this.blank();
    switch (this.text[this.at]) {
      case '{':
        return this.object();
      case '[':
        return this.list();
      case '"':
        return this.string();
      case 't':
        return this.word('true', true);
      case 'f':
        return this.word('false', false);
      case 'n':
        return this.word('null', null);
      default:
        return this.number();
    }
  }

  private object(): Value {
    const object: Record<string, Value> = {};
    this.at++;
    this.blank();
    if (this.taken('}')) return object;
    do {
      this.blank();
      if (this.text[this.at] !== '"') throw new JsonFault(this.at, 'expected a member name in double quotes');
      const name = this.string();
      this.blank();
      if (!this.taken(':')) throw new JsonFault(this.at, 'expected ":"');
      defineMember(object, name, this.value());
      this.blank();
    } while (this.taken(','));
    if (!this.taken('}')) throw new JsonFault(this.at, 'expected "," or "}"');
    return object;
  }

  private list(): Value {
    const list: Value[] = [];
    this.at++;
    this.blank();
    if (this.taken(']')) return list;
    do {
      list.push(this.value());
      this.blank();
    } while (this.taken(','));
    if (!this.taken(']')) throw new JsonFault(this.at, 'expected "," or "]"');
    return list;
  }

  private string(): string {
    const raw = this.match(STRING);
    if (raw === undefined) throw new JsonFault(this.at, 'a string that is not closed, or has an invalid escape');
    return raw.includes('\\') ? (JSON.parse(raw) as string) : raw.slice(1, -1);
  }

  private number(): Value {
    const start = this.at;
    const raw = this.match(NUMBER);
    if (raw === undefined) {
      const end = start >= this.text.length;
      throw new JsonFault(start, end ? 'the text ends where a value is expected' : 'expected a value');
    }
    const number = readNumber(raw);
    if (number === undefined) throw new JsonFault(start, `the number ${raw} is out of range`, 'number-range');
    return number;
  }

  private word(word: string, value: Value): Value {
    if (!this.text.startsWith(word, this.at)) throw new JsonFault(this.at, 'expected a value');
    this.at += word.length;
    return value;
  }

  private match(pattern: RegExp): string | undefined {
    pattern.lastIndex = this.at;
    const found = pattern.exec(this.text)?.[0];
    if (found !== undefined) this.at += found.length;
    return found;
  }

  private blank(): void {
    this.match(BLANK);
  }

  private taken(sign: string): boolean {
    if (this.text[this.at] !== sign) return false;
    this.at++;
    return true;
  }
}
