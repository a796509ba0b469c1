import { SyntaxFault } from '../../diagnostics/problem.ts';

/** Whether one code point is in a set. */
export type Matches = (codePoint: number) => boolean;

/** RFC 9485, or what of ECMA-262 needs no backtracking: without look-around, back references and word boundaries. */
export type Dialect = 'i-regexp' | 'ecma';

/** A pattern as a tree, RFC 9485 section 3. */
export type PatternNode =
  | Readonly<{ kind: 'set'; matches: Matches }>
  | Readonly<{ kind: 'anchor'; at: 'start' | 'end' }>
  | Readonly<{ kind: 'sequence'; parts: readonly PatternNode[] }>
  | Readonly<{ kind: 'choice'; branches: readonly PatternNode[] }>
  /** Parentheses, numbered from 1 in the order in which they open. */
  | Readonly<{ kind: 'group'; inner: PatternNode; number: number }>
  | Readonly<{ kind: 'repeat'; inner: PatternNode; min: number; max: number }>;

const QUANTITY = /\{(\d+)(,(\d*))?\}/y;
const CATEGORY = /([pP])\{(L[lmotu]?|M[cen]?|N[dlo]?|P[cdefios]?|Z[lps]?|S[ckmo]?|C[cfno]?)\}/y;
const CLASS_ADVICE: Readonly<Record<string, string>> = {
  d: 'Write [0-9].',
  D: 'Write [^0-9].',
  w: 'Write [A-Za-z0-9_].',
  W: 'Write [^A-Za-z0-9_].',
  s: 'Write [ \\t\\r\\n].',
  S: 'Write [^ \\t\\r\\n].',
  b: 'Word boundaries are not supported; write the characters that may be there.',
};
const SINGLE: Readonly<Record<string, number>> = { n: 10, r: 13, t: 9 };
const MAX_DEPTH = 64;
const CODED = /\\(?:x([0-9a-fA-F]{2})|u([0-9a-fA-F]{4})|u\{([0-9a-fA-F]{1,6})\})/y;
const ECMA_SINGLE: Readonly<Record<string, number>> = { ...SINGLE, f: 12, v: 11, 0: 0 };
const CLASSES: Readonly<Record<string, Matches>> = {
  d: (point) => point >= 48 && point <= 57,
  w: (point) => /^\w$/.test(String.fromCodePoint(point)),
  s: (point) => /^\s$/u.test(String.fromCodePoint(point)),
};

/**
 * Parses an I-Regexp (RFC 9485 section 3). Throws `SyntaxFault` with the place in the pattern.
 *
 *   i-regexp = branch *( "|" branch )
 */
export function parsePattern(source: string, dialect: Dialect = 'i-regexp'): PatternNode {
  const parser = new PatternParser(source, dialect === 'ecma');
  const tree = parser.choice(0);
  parser.end();
  return tree;
}

class PatternParser {
  private at = 0;
  private groups = 0;
  constructor(
    private readonly source: string,
    private readonly isEcma: boolean,
  ) {}

  end(): void {
    if (this.at < this.source.length) this.fail(`"${this.source[this.at]}" closes nothing`, 'Write a \\ before it.');
  }

  choice(depth: number): PatternNode {
    if (depth > MAX_DEPTH) this.fail(`Patterns can be nested ${MAX_DEPTH} levels deep at most`);
    const branches = [this.branch(depth)];
    while (this.taken('|')) branches.push(this.branch(depth));
    return branches.length === 1 ? branches[0]! : { kind: 'choice', branches };
  }

  /** branch = *piece ; piece = atom [ quantifier ] */
  private branch(depth: number): PatternNode {
    const parts: PatternNode[] = [];
    while (this.at < this.source.length && !'|)'.includes(this.source[this.at]!)) parts.push(this.piece(depth));
    return parts.length === 1 ? parts[0]! : { kind: 'sequence', parts };
  }

  private piece(depth: number): PatternNode {
    const inner = this.atom(depth);
    const repeated = this.repeated(inner);
    // Whether it takes as little as it can makes no difference to whether it fits.
    if (repeated !== inner && this.isEcma) this.taken('?');
    return repeated;
  }

  private repeated(inner: PatternNode): PatternNode {
    if (this.taken('*')) return { kind: 'repeat', inner, min: 0, max: Infinity };
    if (this.taken('+')) return { kind: 'repeat', inner, min: 1, max: Infinity };
    if (this.taken('?')) return { kind: 'repeat', inner, min: 0, max: 1 };
    if (this.source[this.at] !== '{' || (this.isEcma && !this.isQuantity())) return inner;
    const quantity = this.match(QUANTITY);
    if (!quantity) return this.fail('A quantity is written {2}, {2,} or {2,5}', 'Write \\{ for the character itself.');
    const min = Number(quantity[1]);
    const max = quantity[2] === undefined ? min : quantity[3] ? Number(quantity[3]) : Infinity;
    if (max < min) this.fail(`The quantity {${min},${max}} has its bounds in the wrong order`);
    return { kind: 'repeat', inner, min, max };
  }

  /** atom = NormalChar / charClass / ( "(" i-regexp ")" ) */
  // eslint-disable-next-line complexity -- a branch for each sign of the grammar
  private atom(depth: number): PatternNode {
    const sign = this.source[this.at]!;
    if (this.taken('(')) {
      if (this.isEcma) this.groupHead();
      const number = ++this.groups;
      const inner = this.choice(depth + 1);
      if (!this.taken(')')) this.fail('This parenthesis is not closed', 'Add ) at its end.');
      return { kind: 'group', inner, number };
    }
    if (this.taken('.')) {
      const ends = this.isEcma ? [10, 13, 0x2028, 0x2029] : [10, 13];
      return { kind: 'set', matches: (point) => !ends.includes(point) };
    }
    // RFC 9485 takes ^ and $ for themselves in its grammar, and maps patterns to engines where they are anchors
    // (section 5.3). The JSONPath suite expects the anchors; a pattern of a schema uses them so as well.
    if (this.taken('^')) return { kind: 'anchor', at: 'start' };
    if (this.taken('$')) return { kind: 'anchor', at: 'end' };
    if (sign === '[') return { kind: 'set', matches: this.characterClass() };
    if (sign === '\\') return { kind: 'set', matches: this.escape() };
    if ('*+?'.includes(sign) || (sign === '{' && !this.isEcma))
      this.fail(`"${sign}" has nothing to repeat`, `Write \\${sign} for the character itself.`);
    if ('}]'.includes(sign) && !this.isEcma)
      this.fail(`"${sign}" closes nothing`, `Write \\${sign} for the character itself.`);
    const point = this.codePoint();
    return { kind: 'set', matches: (other) => other === point };
  }

  /** charClassExpr = "[" [ "^" ] ( "-" / CCE1 ) *CCE1 [ "-" ] "]" */
  private characterClass(): Matches {
    const open = this.at++;
    const negated = this.taken('^');
    const members: Matches[] = [];
    while (!this.taken(']')) {
      if (this.at >= this.source.length) {
        this.at = open;
        this.fail('This character class is not closed', 'Add ] at its end.');
      }
      members.push(this.classMember(members.length === 0));
    }
    if (members.length === 0 && !this.isEcma) this.fail('A character class needs at least one character');
    const any: Matches = (point) => members.some((matches) => matches(point));
    return negated ? (point) => !any(point) : any;
  }

  // eslint-disable-next-line complexity -- a branch for each sign of the grammar
  private classMember(isFirst: boolean): Matches {
    const sign = this.source[this.at]!;
    if (this.isEcma) {
      const known = sign === '\\' ? this.classEscape() : undefined;
      if (known) return known;
    } else if (sign === '[') this.fail('"[" inside a character class', 'Write \\[.');
    if (!this.isEcma && sign === '-' && !isFirst && this.source[this.at + 1] !== ']') {
      this.fail('In a character class "-" must be first or last', 'Write \\-.');
    }
    if (sign === '\\' && 'pP'.includes(this.source[this.at + 1] ?? '')) return this.escape();
    const low = this.classPoint();
    const after = this.source[this.at + 1] ?? '';
    const isAlone = sign === '-' && !this.isEcma;
    if (this.source[this.at] !== '-' || after === ']' || isAlone || (this.isEcma && this.isClassAt(this.at + 1)))
      return (point) => point === low;
    this.at++;
    const high = this.classPoint();
    if (high < low) this.fail('The ends of this range are in the wrong order');
    return (point) => point >= low && point <= high;
  }

  private classPoint(): number {
    if (this.source[this.at] !== '\\') return this.codePoint();
    return this.singleEscape();
  }

  private escape(): Matches {
    const known = this.isEcma ? this.classEscape() : undefined;
    if (known) return known;
    this.at++;
    const category = this.match(CATEGORY);
    if (category) {
      const pattern = new RegExp(`^\\${category[1]}{${category[2]}}$`, 'u');
      return (point) => pattern.test(String.fromCodePoint(point));
    }
    this.at--;
    const point = this.singleEscape();
    return (other) => other === point;
  }

  /** SingleCharEsc = "\" ( %x28-2B / "-" / "." / "?" / %x5B-5E / n / r / t / %x7B-7D ) */
  private singleEscape(): number {
    if (this.isEcma) return this.ecmaEscape();
    const sign = this.source[this.at + 1] ?? '';
    const point = SINGLE[sign] ?? (sign !== '' && '()*+-.?[\\]^{|}'.includes(sign) ? sign.charCodeAt(0) : undefined);
    if (point === undefined) this.fail(`"\\${sign}" is not in I-Regexp (RFC 9485)`, CLASS_ADVICE[sign]);
    this.at += 2;
    return point;
  }

  /** `\\d`, `\\w`, `\\s` and their opposites. */
  private classEscape(): Matches | undefined {
    if (!this.isClassAt(this.at)) return undefined;
    const sign = this.source[this.at + 1]!;
    this.at += 2;
    const matches = CLASSES[sign.toLowerCase()]!;
    return sign === sign.toLowerCase() ? matches : (point) => !matches(point);
  }

  private isClassAt(at: number): boolean {
    return this.source[at] === '\\' && 'dDwWsS'.includes(this.source[at + 1] ?? '-');
  }

  /** An escape of a single character: ECMA-262 section 22.2.1, CharacterEscape. */
  private ecmaEscape(): number {
    const coded = this.match(CODED);
    if (coded) return Number.parseInt(coded[1] ?? coded[2] ?? coded[3]!, 16);
    const sign = this.source[this.at + 1] ?? '';
    if (sign === '' || /[bBk1-9]/.test(sign)) this.fail(`"\\${sign}" needs backtracking`);
    this.at++;
    const known = ECMA_SINGLE[sign];
    if (known === undefined) return this.codePoint();
    this.at++;
    return known;
  }

  /** `(?:` and `(?<name>` are groups; look-around is none that this can do. */
  private groupHead(): void {
    if (this.match(/\?:|\?<[A-Za-z_$][\w$]*>/y) || this.source[this.at] !== '?') return;
    this.fail('Look-around needs backtracking');
  }

  private isQuantity(): boolean {
    return /^\{\d+(?:,\d*)?\}/.test(this.source.slice(this.at, this.at + 24));
  }

  private codePoint(): number {
    const point = this.source.codePointAt(this.at)!;
    this.at += point > 0xffff ? 2 : 1;
    return point;
  }

  private taken(sign: string): boolean {
    if (this.source[this.at] !== sign) return false;
    this.at++;
    return true;
  }

  private match(pattern: RegExp): RegExpExecArray | null {
    pattern.lastIndex = this.at;
    const found = pattern.exec(this.source);
    if (found) this.at += found[0].length;
    return found;
  }

  private fail(message: string, advice?: string): never {
    throw new SyntaxFault({
      code: 'invalid-pattern',
      range: [this.at, Math.min(this.at + 1, this.source.length)],
      message,
      ...(advice === undefined ? {} : { advice }),
    });
  }
}
