import type { Problem, Range } from '../diagnostics/problem.ts';
import type { Source } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import { parsePlaceholder } from '../expression/parse.ts';
import type { Value } from '../value/value.ts';

/** A placeholder in a text: `{expression}`. `range` takes in the braces, in offsets of the text around. */
export type Placeholder = Readonly<{ range: Range; node: Node; source: Source }>;

/** A text as it stands between placeholders, and the placeholders. */
type Piece = string | Placeholder;

export type TextTemplate = Readonly<{ kind: 'text'; source: Source; pieces: readonly Piece[] }>;

/** A value with placeholders in its texts, as a `json` body or a query parameter is written. */
export type ValueTemplate =
  | Readonly<{ kind: 'constant'; value: Value }>
  | TextTemplate
  | Readonly<{ kind: 'list'; items: readonly ValueTemplate[] }>
  | Readonly<{ kind: 'object'; members: readonly (readonly [name: string, value: ValueTemplate])[] }>;

/**
 * Parses a text with placeholders: `{{` is a brace, `}}` is one, `{expression}` a placeholder. Quotes inside a placeholder may hold any
 * braces. Never throws.
 */
export function parseTemplate(source: Source): Readonly<{ template: TextTemplate; problems: readonly Problem[] }> {
  const { text } = source;
  const pieces: Piece[] = [];
  const problems: Problem[] = [];
  let literal = '';
  let at = 0;
  while (at < text.length) {
    const brace = nextBrace(text, at);
    literal += text.slice(at, brace);
    if (brace === text.length) break;
    const sign = text[brace]!;
    if (text[brace + 1] === sign) {
      literal += sign;
      at = brace + 2;
    } else if (sign === '}') {
      problems.push(strayBrace(brace));
      at = brace + 1;
    } else {
      const placeholder = parsePlaceholder(text, brace + 1);
      if (placeholder.tree === undefined) {
        problems.push(...placeholder.problems.map((problem) => explained(problem, text, brace)));
        break;
      }
      problems.push(...placeholder.problems);
      if (literal !== '') pieces.push(literal);
      literal = '';
      pieces.push({ range: [brace, placeholder.end], node: placeholder.tree, source });
      at = placeholder.end;
    }
  }
  if (literal !== '') pieces.push(literal);
  return { template: { kind: 'text', source, pieces }, problems };
}

function nextBrace(text: string, from: number): number {
  const open = text.indexOf('{', from);
  const close = text.indexOf('}', from);
  return Math.min(open < 0 ? text.length : open, close < 0 ? text.length : close);
}

function strayBrace(at: number): Problem {
  return {
    code: 'invalid-placeholder',
    range: [at, at + 1],
    message: 'This brace has no opening brace',
    advice: 'Write }} for the character itself.',
  };
}

function explained(problem: Problem, text: string, brace: number): Problem {
  const looksLikeJson = /^\{\s*("|\}|$)/.test(text.slice(brace));
  if (problem.code !== 'invalid-placeholder') return problem;
  const advice = looksLikeJson
    ? 'A brace begins a placeholder. Write JSON as YAML under json, or {{ and }} for literal braces.'
    : (problem.advice ?? 'A placeholder is {expression}. Write {{ for the character itself.');
  return { ...problem, advice };
}

/** The placeholder that is the whole text, which keeps its value's kind; `undefined` when there is more or none. */
export function onlyPlaceholder(template: TextTemplate): Placeholder | undefined {
  const [first] = template.pieces;
  return template.pieces.length === 1 && typeof first !== 'string' ? first : undefined;
}

/** What a text says, if it has no placeholders. */
export function plainTextOf({ pieces }: TextTemplate): string | undefined {
  const [first] = pieces;
  return pieces.length === 1 && typeof first === 'string' ? first : undefined;
}

/** A text without placeholders. */
export function plainText(source: Source): TextTemplate {
  return { kind: 'text', source, pieces: source.text === '' ? [] : [source.text] };
}

/** Every placeholder of a template, in order. */
export function placeholdersOf(template: ValueTemplate): readonly Placeholder[] {
  switch (template.kind) {
    case 'constant':
      return [];
    case 'text':
      return template.pieces.filter((piece) => typeof piece !== 'string');
    case 'list':
      return template.items.flatMap(placeholdersOf);
    case 'object':
      return template.members.flatMap(([, value]) => placeholdersOf(value));
  }
}

/** Every text of a template, in order. */
export function textsOf(template: ValueTemplate): readonly TextTemplate[] {
  switch (template.kind) {
    case 'constant':
      return [];
    case 'text':
      return [template];
    case 'list':
      return template.items.flatMap(textsOf);
    case 'object':
      return template.members.flatMap(([, value]) => textsOf(value));
  }
}

/** A text under a name: a field of a form, a member of a JSON body. */
export type NamedText = Readonly<{ name: string; value: ValueTemplate }>;

/** The texts of a value under their names: those of a list under the name of the list. */
export function namedTexts(value: ValueTemplate, name = ''): readonly NamedText[] {
  switch (value.kind) {
    case 'text':
      return [{ name, value }];
    case 'list':
      return value.items.flatMap((item) => namedTexts(item, name));
    case 'object':
      return value.members.flatMap(([member, inner]) => namedTexts(inner, member));
    default:
      return [];
  }
}
