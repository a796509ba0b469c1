import type { Problem, Range } from '../diagnostics/problem.ts';
import type { Code } from '../diagnostics/catalogue.ts';
import { lineOf, positionOf, type SourceFile } from '../diagnostics/source.ts';
import { parseExpression } from '../expression/parse.ts';
import { yamlQuoted } from './quoting.ts';

/** Problems that may be only what follows from YAML having read something else than was written. */
const SYMPTOMS: ReadonlySet<Code> = new Set<Code>([
  'not-yaml',
  'yaml-not-allowed',
  'does-not-parse',
  'wrong-type',
  'invalid-name',
  'unknown-key',
  'key-missing',
  'duplicate-key',
  'invalid-placeholder',
  'placeholder-in-key',
  'needs-quotes',
]);

/**
 * Looks at the lines of a file's problems, as they are written: where YAML has eaten part of one, that is the problem,
 * with the corrected text, and what followed from it is not told.
 */
export function withHazards(file: SourceFile, problems: readonly Problem[]): readonly Problem[] {
  const found = new Map<number, Problem | undefined>();
  const hazardAt = (problem: Problem): Problem | undefined => {
    const { line } = positionOf(file, problem.range[0]);
    if (!found.has(line)) found.set(line, hazardIn(file, line, problem.code));
    return found.get(line);
  };
  const told = new Set<Problem>();
  return problems.flatMap((problem) => {
    const hazard = SYMPTOMS.has(problem.code) ? hazardAt(problem) : undefined;
    if (!hazard) return [problem];
    if (told.has(hazard)) return [];
    told.add(hazard);
    return [hazard];
  });
}

const HEAD = /^(\s*(?:- +)*)(?:((?:[A-Za-z_][\w-]*|"[^"]*"|'[^']*'))(:[ \t]+))?/;

function hazardIn(file: SourceFile, number: number, code: Code): Problem | undefined {
  const line = lineOf(file, number);
  const head = HEAD.exec(line)![0];
  const value = line.slice(head.length).trimEnd();
  const hazard = hazardOf(value, code);
  if (!hazard) return undefined;
  const start = file.text.split('\n', number - 1).reduce((sum, each) => sum + each.length + 1, 0) + head.length;
  const range: Range = [start, start + value.length];
  const message = `YAML reads this as ${hazard.what}`;
  const advice = 'Put it in quotes.';
  return { code: 'needs-quotes', range, message, advice, fix: { range, text: hazard.text, sure: true } };
}

type Hazard = Readonly<{ what: string; text: string }>;

/** Signs with which no plain value begins in YAML, and what they mean there. */
const SIGNS: Readonly<Record<string, string>> = {
  '!': 'a tag',
  '&': 'an anchor',
  '*': 'an alias',
  '@': 'a reserved character',
  '`': 'a reserved character',
  '%': 'a directive',
};

// eslint-disable-next-line complexity -- a branch for each form that YAML 1.1 reads otherwise
function hazardOf(value: string, code: Code): Hazard | undefined {
  const [sign = ''] = value;
  if (SIGNS[sign] !== undefined && value.length > 1) return { what: SIGNS[sign], text: yamlQuoted(value) };
  if (sign === '{') return braceHazard(value);
  if (!isExpression(value)) {
    // Text with a colon: the parser took the rest for a mapping inside a value.
    const isText = code === 'not-yaml' && /^[A-Za-z$]/.test(value) && /: /.test(value);
    return isText ? { what: 'a mapping inside a value, because of ": "', text: yamlQuoted(value) } : undefined;
  }
  if (sign === "'" || sign === '"') {
    return closesEarly(value)
      ? { what: 'a string that ends at its closing quote', text: yamlQuoted(value) }
      : undefined;
  }
  if (sign === '[') {
    const mended = value.endsWith(']') ? listHazard(value.slice(1, -1)) : undefined;
    if (mended) return mended;
    return /\][^\],]*$/.test(value) && !value.endsWith(']')
      ? { what: 'an array that ends at its bracket', text: yamlQuoted(value) }
      : undefined;
  }
  if (/ #/.test(value)) return { what: 'a comment after " #"', text: yamlQuoted(value) };
  return /: |:$/.test(value) ? { what: 'a mapping, because of ": "', text: yamlQuoted(value) } : undefined;
}

function isExpression(text: string): boolean {
  const { tree, problems } = parseExpression(text);
  return tree !== undefined && problems.length === 0;
}

/** Whether a quoted text at the start ends before the value does. */
function closesEarly(value: string): boolean {
  const quoted = /^'(?:[^']|'')*'|^"(?:[^"\\]|\\.)*"/.exec(value)?.[0];
  return quoted !== undefined && quoted.length < value.length;
}

/** A placeholder without quotes, or a flow mapping that was cut at a sign inside one of its values. */
function braceHazard(value: string): Hazard | undefined {
  const closes = closingBrace(value);
  const isPlaceholder =
    closes !== undefined && !/^\{\s*(?:[\w-]+|"[^"]*"|'[^']*')\s*:(?:\s|$)/.test(value) && value !== '{}';
  if (isPlaceholder && isExpression(value.slice(1, closes))) return { what: 'a mapping', text: yamlQuoted(value) };
  if (closes !== value.length - 1) return undefined;
  const entries = entriesOf(value.slice(1, -1));
  const mended = entries?.map(({ text }) =>
    text.startsWith('{') ? braceHazard(text)?.text : isCut(text) ? yamlQuoted(text) : undefined,
  );
  if (!entries || !mended || mended.every((text) => text === undefined)) return undefined;
  const written = entries.map(({ key, text }, i) => `${key}: ${mended[i] ?? text}`);
  return { what: 'a mapping that ends inside a value', text: `{ ${written.join(', ')} }` };
}

/** Items of a flow list that a bracket inside one of them cuts: `[status in [200, 409]]`. */
function listHazard(inner: string): Hazard | undefined {
  const items = partsOf(inner);
  const mended = items.map((text) => (isCut(text) && isExpression(text) ? yamlQuoted(text) : text));
  if (mended.every((text, i) => text === items[i])) return undefined;
  return { what: 'an array that ends inside an item', text: `[${mended.join(', ')}]` };
}

/** Whether a plain value of a flow mapping holds a sign that ends it. */
function isCut(text: string): boolean {
  if (/^["']/.test(text)) return closesEarly(text);
  if (/^[[{]/.test(text)) return false;
  return /[,[\]{}]|: | #/.test(text);
}

/** Where the brace that opens a text closes, with quotes, brackets and parentheses passed over. */
function closingBrace(text: string): number | undefined {
  for (const { at, depth, sign } of signsOf(text)) if (depth === 0 && sign === '}') return at;
  return undefined;
}

/** Each sign outside of quotes, with how many brackets are open behind it. */
function* signsOf(text: string): Generator<Readonly<{ at: number; sign: string; depth: number }>> {
  let depth = 0;
  for (const match of text.matchAll(/'(?:[^']|'')*'|"(?:[^"\\]|\\.)*"|[([{]|[)\]}]|,/g)) {
    const [sign] = match;
    if (sign.length > 1) continue;
    if ('([{'.includes(sign)) depth++;
    if (')]}'.includes(sign)) depth--;
    yield { at: match.index, sign, depth };
  }
}

/** What stands between the commas of a flow collection. */
function partsOf(inside: string): readonly string[] {
  const ends = [...signsOf(inside)].filter(({ sign, depth }) => sign === ',' && depth === 0).map(({ at }) => at);
  return [...ends, inside.length].map((end, i) => inside.slice(i === 0 ? 0 : ends[i - 1]! + 1, end).trim());
}

function entriesOf(inside: string): readonly Readonly<{ key: string; text: string }>[] | undefined {
  const entries = partsOf(inside).map((part) => /^([A-Za-z_][\w-]*|"[^"]*"|'[^']*'):\s+([^]*)$/.exec(part));
  if (entries.some((entry) => entry === null)) return undefined;
  return entries.map((entry) => ({ key: entry![1]!, text: entry![2]! }));
}
