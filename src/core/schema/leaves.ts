import * as z from 'zod';
import { didYouMean } from '../diagnostics/suggest.ts';
import type { Problem, Range } from '../diagnostics/problem.ts';
import { inFile, type Source, type SourceFile } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import { parseExpression } from '../expression/parse.ts';
import { parseRequestLine, type RequestLine } from '../template/request-line.ts';
import { parseTemplate, plainText, type TextTemplate, type ValueTemplate } from '../template/template.ts';
import type { Value } from '../value/value.ts';
import { isRewrittenNumber, scalarValue } from '../yaml/scalar.ts';
import type { Reading, YamlScalar } from '../yaml/tree.ts';
import { holding, taking } from './input.ts';
import { anyOf, leaf, reportAt, SCALAR } from './leaf.ts';
import { placedOf, type Placed } from './shape.ts';

/** An expression of a file. `tree` is absent when it did not parse, which was reported; such a file is never run. */
export type Expression = Readonly<{ kind: 'expression'; source: Source; tree: Node | undefined }>;

/** A text without placeholders, and its place. */
export const word = (what = 'a string', json = SCALAR) => leaf(what, (scalar): Source => scalar.source, json);

/** The name of an API of the project, or of a file. */
export const apiName = () => word('the name of an API', holding('api', SCALAR));
export const chainFileName = () => word('the name of a chain file', holding('chain-file', SCALAR));
export const plainFileName = () => word('the name of a file', holding('file', SCALAR));

/** A text with placeholders. A number's or boolean's source text is meant where only text can stand. */
export const text = (what = 'a string', json = holding('placeholders', SCALAR)) => leaf(what, readText, json);

/** The name of a file, relative to the file in which it stands. */
export const fileName = () => text('the name of a file', holding('file', SCALAR));

/** An expression, without braces. The scalar's text is the expression, whatever YAML takes it for. */
export const expression = (what = 'an expression') =>
  leaf(
    what,
    (scalar, reading): Expression => {
      const { source } = scalar;
      if (source.text.trim() === '') {
        reportAt(reading, scalar, 'does-not-parse', 'An expression is missing here');
        return { kind: 'expression', source, tree: undefined };
      }
      const { tree, problems } = readExpression(source.text);
      for (const problem of problems) reading.report(inFile(source, problem));
      return { kind: 'expression', source, tree };
    },
    holding('expression', SCALAR),
  );

/** Parses an expression, and recognises what is often written in its place: a date without quotes, a placeholder. */
export function readExpression(text: string): ReturnType<typeof parseExpression> {
  const day = text.includes('-') || text.includes(':') ? dateIn(text) : undefined;
  if (day) return { tree: undefined, problems: [day] };
  const parsed = parseExpression(text);
  if (parsed.tree || !/^\s*\{[^{}]*\}\s*$/.test(text)) return parsed;
  // The braces are read as blanks, so that places stay what they are.
  const inner = parseExpression(text.replace(/[{}]/g, ' '));
  if (!inner.tree || inner.problems.length > 0) return parsed;
  const range: Range = [text.indexOf('{'), text.lastIndexOf('}') + 1];
  const message = 'Braces are for placeholders in strings; an expression has none';
  const fix = { range, text: text.slice(range[0] + 1, range[1] - 1).trim(), sure: true as const };
  return {
    tree: inner.tree,
    problems: [{ code: 'braces-in-expression', range, message, advice: 'Remove them.', fix }],
  };
}

const QUOTED_OR_DATE =
  /'(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"|(?<![\w.)\]])(?:\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?(?:Z|[+-]\d\d:\d\d)?)?|\d{1,2}:\d\d(?::\d\d)?(?=\s|$))/g;

/** A date or time of day outside of quotes, which would be read as a subtraction, or not at all. */
function dateIn(text: string): Problem | undefined {
  for (const { 0: found, index } of text.matchAll(QUOTED_OR_DATE)) {
    if (/^['"]/.test(found)) continue;
    const range: Range = [index, index + found.length];
    // `$[1:20]` is a slice.
    if (!found.includes('-') && text.slice(0, index).includes('[') && text.slice(range[1]).includes(']')) continue;
    const isTime = !found.includes('-');
    const message = isTime ? 'A time of day is not a value' : 'A date without quotes is a subtraction';
    const call = `date_time('${found.replace(' ', 'T')}')`;
    const advice = isTime
      ? `Write it as a string: '${found}'.`
      : `Write ${call} for the point in time, or '${found}' for the string.`;
    return { code: 'date-unquoted', range, message, advice, fix: { range, text: isTime ? `'${found}'` : call } };
  }
  return undefined;
}

/** A path from `$` alone, such as `$.job.id`. */
export const pathExpression = () =>
  leaf(
    'a path such as $.job.id',
    (scalar, reading): Expression => {
      const { source } = scalar;
      const { tree, problems } = parseExpression(source.text);
      const isPath = tree?.kind === 'path' && tree.start.kind === 'body';
      if (!isPath || problems.length > 0) {
        reportAt(
          reading,
          scalar,
          'invalid-path',
          `"${source.text}" is not a path`,
          'A path begins with $: $.job.id, $..at, $[*].id.',
        );
      }
      return { kind: 'expression', source, tree: isPath ? tree : undefined };
    },
    holding('expression', { type: 'string', pattern: '^\\$' }),
  );

export const requestLine = () =>
  leaf(
    'a request line such as GET /vessels',
    (scalar, reading): RequestLine | undefined => {
      const { line, problems } = parseRequestLine(scalar.source);
      for (const problem of problems) reading.report(inFile(scalar.source, problem));
      return line;
    },
    holding('request-line', { type: 'string', pattern: '^[A-Z][A-Z0-9_-]*\\s+\\S' }),
  );

/** `true` or `false`. */
export const flag = () =>
  leaf(
    'true or false',
    (scalar, reading) => {
      const value = scalarValue(scalar);
      if (typeof value === 'boolean') return value;
      reportAt(reading, scalar, 'wrong-type', `This takes true or false, not "${scalar.source.text}"`);
      return undefined;
    },
    { type: 'boolean' },
  );

/** One of some words. */
export const choice = <W extends string>(...words: readonly W[]) =>
  leaf(
    `one of ${words.join(', ')}`,
    (scalar, reading) => {
      const { text: given } = scalar.source;
      const found = words.find((each) => each === given);
      if (found === undefined) {
        reportAt(
          reading,
          scalar,
          'wrong-type',
          `"${given}" is not one of ${words.join(', ')}`,
          didYouMean(given, words),
        );
      }
      return found;
    },
    { enum: [...words] },
  );

/** Any YAML value, its texts with placeholders. In a body numbers are numbers; where only text can stand, their digits are. */
export const value = () => anyOf('a value', holding('placeholders', {}), (at) => readValue(at, 'value'));

/** The same as a JSON body, in which `yes` and `no` are probably meant as conditions. */
export const jsonValue = () => anyOf('a value', holding('placeholders', {}), (at) => readValue(at, 'json'));

/** A parameter or header: a text, null to leave it out, or with `lists` several of them. */
export const parameter = () =>
  anyOf('a string, null, or an array of strings', PARAMETER, (at) => readValue(at, 'text'));

const PARAMETER = holding('placeholders', { anyOf: [SCALAR, { type: 'null' }, { type: 'array', items: SCALAR }] });

/** A constant of any kind, in which braces are only braces. */
export const constant = () => anyOf('a value without placeholders', {}, readConstant);

/** A value with placeholders, and where it stands. */
export const sourcedValue = () =>
  anyOf('a value', holding('placeholders', {}), (at) => ({ value: readValue(at, 'value'), source: sourceOfNode(at) }));

/** A constant, and where it stands. */
export const sourcedConstant = () =>
  anyOf('a value without placeholders', {}, (at) => ({ value: readConstant(at), source: sourceOfNode(at) }));

/** The name of a file, or a constant that is no text. */
export const fileOrConstant = () =>
  anyOf(
    'the name of a file, or a value',
    holding('file', {}),
    (at): { source: Source; file?: Source; value?: Value } => {
      const source = sourceOfNode(at);
      if (at.node.kind === 'scalar' && typeof scalarValue(at.node) === 'string')
        return { source, file: at.node.source };
      return { source, value: readConstant(at) };
    },
  );

/** A node as a text of its file: a scalar as it is read, any other by its first line. */
export function sourceOfNode({ node, reading }: Placed): Source {
  if (node.kind === 'scalar') return node.source;
  const [start, end] = node.range;
  const text = reading.file.text.slice(start, end).split('\n', 1)[0]!;
  return { file: reading.file, text, locate: ([from, to]) => [start + from, start + to] };
}

/** A mapping from names to values of one sort. The value of each entry keeps its key's place. */
export const named = <T>(inner: z.ZodType<T>) => {
  const schema = z.transform((projected: unknown, context): Named<T> => {
    if (typeof projected !== 'object' || projected === null || Array.isArray(projected)) {
      context.issues.push({ code: 'custom', message: 'a mapping', input: projected });
      return z.NEVER;
    }
    const { node, reading } = placedOf(projected);
    if (node.kind !== 'map') return [];
    return node.entries.flatMap(({ key, keyRange }) => {
      const parsed = inner.safeParse((projected as Record<string, unknown>)[key]);
      if (parsed.success) return [{ name: key, nameRange: keyRange, file: reading.file, value: parsed.data }];
      for (const issue of parsed.error.issues) {
        context.issues.push({ ...issue, path: [key, ...issue.path], input: projected } as z.core.$ZodRawIssue);
      }
      return [];
    });
  });
  return taking(schema, (input) => {
    const { what, json } = input(inner);
    return { what: `a mapping from names, each to ${what}`, json: { type: 'object', additionalProperties: json } };
  });
};

/** An entry of a mapping; `whole` is a placeholder in place of the mapping, whose object has the entries. */
export type NamedEntry<T> = Readonly<{ name: string; nameRange: Range; file: SourceFile; value: T; whole?: true }>;
export type Named<T> = readonly NamedEntry<T>[];

/** A flow mapping that is only a name in braces: a placeholder that lacks its quotes. */
function isBarePlaceholder({ node, reading }: Placed): boolean {
  if (node.kind !== 'map' || !node.flow || node.entries.length === 0) return false;
  return node.entries.every(
    ({ value: member, keyRange }) =>
      member.kind === 'scalar' &&
      member.range[0] === member.range[1] &&
      /^\s*[,}]/.test(reading.file.text.slice(keyRange[1])),
  );
}

export function readText(scalar: YamlScalar, reading: Reading): TextTemplate {
  const { template, problems } = parseTemplate(scalar.source);
  for (const problem of problems) reading.report(inFile(scalar.source, problem));
  return template;
}

function readValue({ node, reading }: Placed, place: 'value' | 'json' | 'text'): ValueTemplate {
  if (node.kind === 'list') {
    return { kind: 'list', items: node.items.map((item) => readValue({ node: item, reading }, place)) };
  }
  if (node.kind === 'map') {
    if (isBarePlaceholder({ node, reading })) {
      const message = 'YAML reads this as a mapping';
      reading.report({ code: 'needs-quotes', range: node.range, message, advice: 'Put it in quotes.' });
    }
    for (const { key, keyRange } of node.entries) {
      if (!/\{[^{}]*\}/.test(key)) continue;
      const advice = 'Build such an object with object_of() and insert it as a placeholder.';
      reading.report({ code: 'placeholder-in-key', range: keyRange, message: 'Keys cannot have placeholders', advice });
    }
    const members = node.entries.map(
      ({ key, value: member }) => [key, readValue({ node: member, reading }, place)] as const,
    );
    return { kind: 'object', members };
  }
  if (isRewrittenNumber(node)) {
    const advice = `Put it in quotes to send the characters ('${node.source.text}'), or write the number that you mean.`;
    reportAt(
      reading,
      node,
      'number-rewritten',
      `YAML reads ${node.source.text} as another number`,
      advice,
      `'${node.source.text}'`,
    );
  }
  const constantValue = scalarValue(node);
  if (place === 'json' && node.plain && /^(?:y|n|yes|no|on|off)$/i.test(node.source.text)) {
    const { text: word } = node.source;
    const meant = /^(?:y|yes|on)$/i.test(word);
    const message = `"${word}" is a string in YAML 1.2, and is sent as one`;
    const advice = `Write ${meant} for the boolean, or '${word}' for the string.`;
    reportAt(reading, node, 'yes-is-string', message, advice, String(meant));
  }
  if (typeof constantValue === 'string') return readText(node, reading);
  if (place !== 'text' || constantValue === null) return { kind: 'constant', value: constantValue };
  return plainText(node.source);
}

/** The value of a node in which braces are only braces. */
export function readConstant({ node, reading }: Placed): Value {
  if (node.kind === 'list') return node.items.map((item) => readConstant({ node: item, reading }));
  if (node.kind === 'map') {
    return Object.fromEntries(
      node.entries.map(({ key, value: member }) => [key, readConstant({ node: member, reading })]),
    );
  }
  return scalarValue(node);
}
