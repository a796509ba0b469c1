import type { Json } from '../journal/events.ts';
import { decodedOnce, ESCAPED, type Decoded } from './decoded.ts';
import { formsOf, type Form } from './forms.ts';

/** Characters from which a secret is found anywhere, and from which it is found as a whole value. */
const ANYWHERE = 6;
const WHOLE = 3;
/** Keys of events whose values are words of the journal's own language. */
const WORDS: ReadonlySet<string> = new Set(
  'type kind outcome purpose decoded phase level reached of code as sha256 why'.split(' '),
);
/** What may be a mask that is there already; one of a name that is no secret's is text of somebody else. */
const MASK = /\u2039[\w.-]{1,80}\u203a/g;
const NEVER_SECRET: ReadonlySet<string> = new Set(['true', 'false', 'null', '']);

/**
 * Finds secrets by value in what leaves the process and puts `‹NAME›` in their place. This stands behind masking by
 * construction and by name, for what comes back from servers and for texts that nobody thought of.
 */
export class Masker {
  private forms: readonly Form[] = [];
  private readonly whole = new Map<string, string>();
  private readonly common = new Set<string>();
  /** Texts that give a secret away where escapes around it are decoded, and its name. */
  private readonly decoded = new Map<string, string>();
  private shortest = Infinity;
  /** Names under which something is masked. */
  private readonly names = new Set<string>();
  /** Finds whether any of them stands in a text of JSON; made when it is first asked. */
  private finder: RegExp | undefined;

  /** Whether there is anything to look for. */
  get isActive(): boolean {
    return this.forms.length > 0 || this.whole.size > 0;
  }

  /** How many values are secret. */
  get secrets(): number {
    return this.whole.size;
  }

  /**
   * Makes a value secret from now on. Values too short to be told from other text are left to the other mechanisms. One
   * that is common, here or when it was first added, is masked only where it stands by itself.
   */
  add(name: string, secret: string, isCommon = false): void {
    if (NEVER_SECRET.has(secret) || secret.length < WHOLE) return;
    if (isCommon) this.common.add(secret);
    this.whole.set(secret, name);
    this.names.add(name);
    this.finder = undefined;
    if (secret.length < ANYWHERE || this.common.has(secret)) return;
    for (const form of decodedForms(secret)) this.decoded.set(form, name);
    const known = new Set(this.forms.map(({ text }) => text));
    const added = formsOf(name, secret).filter(({ text }) => !known.has(text));
    this.forms = [...this.forms, ...added].sort((a, b) => b.text.length - a.text.length);
    this.shortest = Math.min(this.shortest, ...added.map(({ text }) => text.length));
  }

  /** A text with every secret in it masked. Masking a masked text changes nothing. */
  text(text: string): string {
    const whole = this.whole.get(text);
    return whole === undefined ? this.inside(text) : `‹${whole}›`;
  }

  /** The same without the secrets that count only as a whole value. */
  inside(text: string): string {
    const isCut = text.includes(CUT);
    if (text.length < this.shortest && !isCut) return text;
    const hits = this.hits(text, isCut);
    if (hits.length === 0) return text;
    let masked = '';
    let at = 0;
    for (const { from, to, name } of hits) {
      masked += `${text.slice(at, from)}‹${name}›`;
      at = to;
    }
    return masked + text.slice(at);
  }

  /** Whether an event that is written as this line may hold anything to mask: it is rare, and found out fast. */
  mayHoldInLine(line: string): boolean {
    if (!this.isActive) return false;
    this.finder ??= anyOf([...this.whole.keys(), ...this.forms.map(({ text }) => text)].map(inJson));
    return this.finder.test(line) || ESCAPED.test(line) || line.includes(CUT);
  }

  /** A JSON text that stays JSON: a number that is or holds a secret becomes a string. */
  json(text: string): string {
    if (!this.mayHold(text)) return text;
    return text.replace(/"(?:[^"\\]|\\.)*"|-?\d[\d.eE+-]*/g, (token) => {
      if (token.startsWith('"')) return `"${this.text(token.slice(1, -1))}"`;
      const masked = this.text(token);
      return masked === token ? token : `"${masked}"`;
    });
  }

  /**
   * An event with its texts masked. `from` is the key that holds the value: words of the journal itself are left alone,
   * and short secrets count only where a value of a message stands whole.
   */
  event(value: Json, from = ''): Json {
    if (typeof value === 'string') return WORDS.has(from) ? value : this.inside(value);
    if (typeof value !== 'object' || value === null) return value;
    if (from === 'json') return this.data(value);
    if (Array.isArray(value))
      return value.map((item) => (from === 'headers' ? this.data(item) : this.event(item, from)));
    return mapped(value, (member, name) => (name === 'json' ? this.data(member) : this.event(member, name)));
  }

  /** Data of a message: texts, numbers and names of members alike. */
  private data(value: Json): Json {
    if (typeof value === 'string') return this.text(value);
    if (typeof value === 'number') {
      const masked = this.text(String(value));
      return masked === String(value) ? value : masked;
    }
    if (Array.isArray(value)) return value.map((item) => this.data(item));
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(Object.entries(value).map(([name, member]) => [this.inside(name), this.data(member)]));
  }

  private mayHold(text: string): boolean {
    if (ESCAPED.test(text) || text.includes(CUT)) return true;
    if (this.forms.some((form) => text.includes(form.text))) return true;
    for (const each of this.whole.keys()) if (text.includes(each)) return true;
    return false;
  }

  /**
   * Where secrets stand, without overlaps, longest forms first: as they are, behind escapes that are decoded up to twice,
   * and cut off before the sign that stands for what was left out. Never inside a mask that is there already.
   */
  private hits(text: string, isCut: boolean): readonly Hit[] {
    const hits: Hit[] = [];
    const masks = this.masksIn(text);
    const add = (from: number, to: number, name: string): void => {
      if (masks.some(([start, end]) => from >= start && to <= end)) return;
      const overlapping = hits.find((hit) => from < hit.to && hit.from < to);
      if (!overlapping) return void hits.push({ from, to, name });
      overlapping.from = Math.min(overlapping.from, from);
      overlapping.to = Math.max(overlapping.to, to);
    };
    for (const { text: form, name } of this.forms) {
      for (let from = text.indexOf(form); from >= 0; from = text.indexOf(form, from + 1))
        add(from, from + form.length, name);
      if (isCut) for (const [from, to] of cutOff(text, form)) add(from, to, name);
    }
    const once = decodedOnce(text);
    const twice = once && decodedOnce(once.text);
    if (once) this.addDecoded(once, (from, to, name) => add(once.from[from]!, once.to[to - 1]!, name));
    if (once && twice)
      this.addDecoded(twice, (from, to, name) =>
        add(once.from[twice.from[from]!]!, once.to[twice.to[to - 1]! - 1]!, name),
      );
    return hits.sort((a, b) => a.from - b.from);
  }

  private addDecoded({ text }: Decoded, add: (from: number, to: number, name: string) => void): void {
    for (const [form, name] of this.decoded) {
      for (let from = text.indexOf(form); from >= 0; from = text.indexOf(form, from + 1))
        add(from, from + form.length, name);
    }
  }

  private masksIn(text: string): readonly (readonly [from: number, to: number])[] {
    if (!text.includes('\u2039')) return NO_MASKS;
    return [...text.matchAll(MASK)]
      .filter(([mask]) => this.names.has(mask.slice(1, -1)))
      .map((match) => [match.index, match.index + match[0].length] as const);
  }
}

/** A secret, and what becomes of it where it holds escapes itself and the text around it is decoded. */
function decodedForms(secret: string): readonly string[] {
  const once = decodedOnce(secret)?.text;
  const twice = once === undefined ? undefined : decodedOnce(once)?.text;
  return [secret, once, twice].filter((form) => form !== undefined && form.trim().length >= WHOLE) as string[];
}

type Hit = { from: number; to: number; name: string };
const NO_MASKS: readonly (readonly [number, number])[] = [];

/** Stands where a text was cut. */
const CUT = '\u2026';
/** Characters of a secret that give it away where it is cut off. */
const MIN_CUT = 4;

/** Where a secret stands whose end was cut off: its beginning, right before the sign of the cut. */
function cutOff(text: string, form: string): readonly (readonly [from: number, to: number])[] {
  const found: (readonly [number, number])[] = [];
  for (let at = text.indexOf(CUT); at >= 0; at = text.indexOf(CUT, at + 1)) {
    const end = text.slice(0, at).trimEnd().replace(/\\$/, '').length;
    for (let length = Math.min(form.length - 1, end); length >= MIN_CUT; length--) {
      if (text.endsWith(form.slice(0, length), end)) {
        found.push([end - length, end]);
        break;
      }
    }
  }
  return found;
}

/** One pass over a text, however many are looked for. */
function anyOf(texts: readonly string[]): RegExp {
  return new RegExp([...new Set(texts)].map((text) => text.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&')).join('|'));
}

function inJson(text: string): string {
  return JSON.stringify(text).slice(1, -1);
}

function mapped(value: { [name: string]: Json }, change: (member: Json, name: string) => Json): Json {
  return Object.fromEntries(Object.entries(value).map(([name, member]) => [name, change(member, name)]));
}
