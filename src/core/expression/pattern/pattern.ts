import { SyntaxFault, type Problem } from '../../diagnostics/problem.ts';
import { Finder, type Groups } from './captures.ts';
import { Matcher, PatternTooLarge } from './automaton.ts';
import { parsePattern, type Dialect } from './parse.ts';

export type Pattern = Readonly<{
  matches(text: string): boolean;
  occursIn(text: string): boolean;
  groupCount: number;
  /** The first match and its groups. */
  find(text: string): Groups | undefined;
}>;

type Compiled =
  | Readonly<{ pattern: Pattern; problem?: undefined }>
  | Readonly<{ pattern?: undefined; problem: Omit<Problem, 'range'> }>;

/** Characters of a pattern (semantics: limits). */
const MAX_PATTERN = 1000;
const MAX_REMEMBERED = 200;
const compiled = new Map<string, Compiled>();

/** An I-Regexp (RFC 9485), compiled once and kept. A bad one is a problem that quotes the pattern and its place. */
export function compilePattern(source: string, dialect: Dialect = 'i-regexp'): Compiled {
  const key = `${dialect} ${source}`;
  let result = compiled.get(key);
  if (!result) {
    if (compiled.size >= MAX_REMEMBERED) compiled.clear();
    compiled.set(key, (result = compile(source, dialect)));
  }
  return result;
}

function compile(source: string, dialect: Dialect): Compiled {
  if (source.length > MAX_PATTERN) {
    return { problem: { code: 'over-limit', message: `A pattern can have at most ${MAX_PATTERN} characters` } };
  }
  try {
    const tree = parsePattern(source, dialect);
    // A matcher for each use: searching goes on from the start at every character, which gives other steps.
    const whole = new Matcher(tree);
    let part: Matcher | undefined;
    let finder: Finder | undefined;
    return {
      pattern: {
        matches: (text) => whole.test(text, false),
        occursIn: (text) => (part ??= new Matcher(tree)).test(text, true),
        get groupCount() {
          return (finder ??= new Finder(tree)).groupCount;
        },
        find: (text) => (finder ??= new Finder(tree)).find(text),
      },
    };
  } catch (error) {
    if (error instanceof PatternTooLarge) {
      return {
        problem: {
          code: 'over-limit',
          message: `The pattern '${source}' repeats too much`,
          advice: 'Use smaller quantities.',
        },
      };
    }
    if (!(error instanceof SyntaxFault)) throw error;
    const { message, advice, range } = error.problem;
    const place = `at character ${range[0] + 1} of the pattern '${source}'`;
    return { problem: { code: 'invalid-pattern', message: `${message} (${place})`, ...(advice ? { advice } : {}) } };
  }
}
