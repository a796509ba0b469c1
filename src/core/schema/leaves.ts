import * as z from 'zod';
import { didYouMean } from '../diagnostics/suggest.ts';
import type { Code } from '../diagnostics/catalogue.ts';
import type { Range } from '../diagnostics/problem.ts';
import type { Source, SourceFile } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import { parseExpression } from '../expression/parse.ts';
import { parseRequestLine, type RequestLine } from '../template/request-line.ts';
import { parseTemplate, plainText, type TextTemplate, type ValueTemplate } from '../template/template.ts';
import { Duration, type Value } from '../value/value.ts';
import { isRewrittenNumber, scalarValue } from '../yaml/scalar.ts';
import type { Reading, YamlScalar } from '../yaml/tree.ts';
import { placedOf, type Leaf, type Placed } from './shape.ts';

/** An expression of a file. `tree` is absent when it did not parse, which was reported; such a file is never run. */
export type Expression = Readonly<{ kind: 'expression'; source: Source; tree: Node | undefined }>;

/**
 * The kinds of single values that keys take. Each reports what is wrong inside itself and still gives something, so
 * that the rest of the file is read and checked too. `description` reaches the reference and the JSON Schema.
 */
function leaf<T>(what: string, read: (scalar: YamlScalar, reading: Reading) => T) {
  // One transform, not a check piped into one: files are mostly leaves, and each pipe costs as much as the leaf.
  return z.transform((given: unknown, context): T => {
    if (typeof given === 'function') {
      const { node, reading } = (given as Leaf)();
      return read(node, reading);
    }
    context.issues.push({ code: 'custom', message: what, input: given });
    return z.NEVER;
  });
}

function reportAt(reading: Reading, scalar: YamlScalar, code: Code, message: string, advice?: string): void {
  reading.report({ code, range: scalar.range, message, ...(advice === undefined ? {} : { advice }) });
}

/** A text without holes, and its place. */
export const word = (what = 'a text') => leaf(what, (scalar): Source => scalar.source);

/** A text with holes. A number's or boolean's source text is meant where only text can stand. */
export const text = (what = 'a text') => leaf(what, readText);

/** An expression, without braces. The scalar's text is the expression, whatever YAML takes it for. */
export const expression = (what = 'an expression') =>
  leaf(what, (scalar, reading): Expression => {
    const { source } = scalar;
    if (source.text.trim() === '') {
      reportAt(reading, scalar, 'does-not-parse', 'An expression is missing here');
      return { kind: 'expression', source, tree: undefined };
    }
    const { tree, problems } = parseExpression(source.text);
    for (const problem of problems) reading.report({ ...problem, range: source.locate(problem.range) });
    return { kind: 'expression', source, tree };
  });

/** A path from `$` alone, such as `$.job.id`. */
export const pathExpression = () =>
  leaf('a path such as $.job.id', (scalar, reading): Expression => {
    const { source } = scalar;
    const { tree, problems } = parseExpression(source.text);
    const isPath = tree?.kind === 'path' && tree.start.kind === 'body';
    if (!isPath || problems.length > 0) {
      reportAt(
        reading,
        scalar,
        'bad-path',
        `"${source.text}" is no path`,
        'A path begins with $: $.job.id, $..at, $[*].id.',
      );
    }
    return { kind: 'expression', source, tree: isPath ? tree : undefined };
  });

export const requestLine = () =>
  leaf('a request line such as GET /vessels', (scalar, reading): RequestLine | undefined => {
    const { line, problems } = parseRequestLine(scalar.source);
    for (const problem of problems) reading.report({ ...problem, range: scalar.source.locate(problem.range) });
    return line;
  });

/** `true` or `false`. */
export const flag = () =>
  leaf('true or false', (scalar, reading) => {
    const value = scalarValue(scalar);
    if (typeof value === 'boolean') return value;
    reportAt(reading, scalar, 'wrong-kind', `This takes true or false, and this is "${scalar.source.text}"`);
    return undefined;
  });

/** One of some words. */
export const choice = <W extends string>(...words: readonly W[]) =>
  leaf(`one of ${words.join(', ')}`, (scalar, reading) => {
    const { text: given } = scalar.source;
    const found = words.find((each) => each === given);
    if (found === undefined) {
      reportAt(reading, scalar, 'wrong-kind', `"${given}" is none of ${words.join(', ')}`, didYouMean(given, words));
    }
    return found;
  });

/** A length of time such as `10s`, in milliseconds. */
export const duration = () =>
  leaf('a duration such as 10s', (scalar, reading) => {
    const value = parseMeasure(scalar.source.text);
    if (value instanceof Duration && value.milliseconds > 0) return value.milliseconds;
    reportAt(
      reading,
      scalar,
      'bad-measure',
      `"${scalar.source.text}" is no duration`,
      'A duration is a number and ms, s, m, h or d: 250ms, 1.5s, 2m.',
    );
    return undefined;
  });

function parseMeasure(written: string): Value | undefined {
  const { tree } = parseExpression(written);
  return tree?.kind === 'literal' ? tree.value : undefined;
}

/** Any YAML value, its texts with holes. In a body numbers are numbers; where only text can stand, their digits are. */
export const value = () => z.transform((projected: unknown) => readValue(placedOf(projected), 'body'));

/** A parameter or header: a text, null to leave it out, or with `lists` several of them. */
export const parameter = () => z.transform((projected: unknown) => readValue(placedOf(projected), 'text'));

/** A constant of any kind, in which braces are only braces. */
export const constant = () => z.transform((projected: unknown) => readConstant(placedOf(projected)));

/** A value with holes, and where it stands. */
export const sourcedValue = () =>
  z.transform((projected: unknown) => {
    const at = placedOf(projected);
    return { value: readValue(at, 'body'), source: sourceOfNode(at) };
  });

/** The name of a file, or a constant that is no text. */
export const fileOrConstant = () =>
  z.transform((projected: unknown): { source: Source; file?: Source; value?: Value } => {
    const at = placedOf(projected);
    const source = sourceOfNode(at);
    if (at.node.kind === 'scalar' && typeof scalarValue(at.node) === 'string') return { source, file: at.node.source };
    return { source, value: readConstant(at) };
  });

/** A node as a text of its file: a scalar as it is read, any other by its first line. */
export function sourceOfNode({ node, reading }: Placed): Source {
  if (node.kind === 'scalar') return node.source;
  const [start, end] = node.range;
  const text = reading.file.text.slice(start, end).split('\n', 1)[0]!;
  return { file: reading.file, text, locate: ([from, to]) => [start + from, start + to] };
}

/** A mapping from names to values of one sort. The value of each entry keeps its key's place. */
export const named = <T>(inner: z.ZodType<T>) =>
  z.transform((projected: unknown, context): Named<T> => {
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

export type NamedEntry<T> = Readonly<{ name: string; nameRange: Range; file: SourceFile; value: T }>;
export type Named<T> = readonly NamedEntry<T>[];

function readText(scalar: YamlScalar, reading: Reading): TextTemplate {
  const { template, problems } = parseTemplate(scalar.source);
  for (const problem of problems) reading.report({ ...problem, range: scalar.source.locate(problem.range) });
  return template;
}

function readValue({ node, reading }: Placed, place: 'body' | 'text'): ValueTemplate {
  if (node.kind === 'list') {
    return { kind: 'list', items: node.items.map((item) => readValue({ node: item, reading }, place)) };
  }
  if (node.kind === 'map') {
    for (const { key, keyRange } of node.entries) {
      if (!/\{[^{}]*\}/.test(key)) continue;
      const advice = 'Build such an object with from_entries() and put it here as one hole.';
      reading.report({ code: 'hole-in-key', range: keyRange, message: 'Keys have no holes', advice });
    }
    const members = node.entries.map(
      ({ key, value: member }) => [key, readValue({ node: member, reading }, place)] as const,
    );
    return { kind: 'object', members };
  }
  if (isRewrittenNumber(node)) {
    const advice = `Quote it to send the digits ('${node.source.text}'), or write the number that is meant.`;
    reportAt(
      reading,
      node,
      'number-rewritten',
      `YAML reads ${node.source.text} as another number than it says`,
      advice,
    );
  }
  const constantValue = scalarValue(node);
  if (typeof constantValue === 'string') return readText(node, reading);
  if (place === 'body' || constantValue === null) return { kind: 'constant', value: constantValue };
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
