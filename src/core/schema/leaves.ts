import * as z from 'zod';
import { didYouMean } from '../diagnostics/suggest.ts';
import type { Code } from '../diagnostics/catalogue.ts';
import type { Problem, Range } from '../diagnostics/problem.ts';
import { inFile, type Source, type SourceFile } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import { parseExpression } from '../expression/parse.ts';
import { parseRequestLine, type RequestLine } from '../template/request-line.ts';
import { parseTemplate, plainText, type TextTemplate, type ValueTemplate } from '../template/template.ts';
import { Duration, type Value } from '../value/value.ts';
import { isRewrittenNumber, scalarValue } from '../yaml/scalar.ts';
import type { Reading, YamlScalar } from '../yaml/tree.ts';
import { taking, type JsonSchema } from './input.ts';
import { placedOf, type Leaf, type Placed } from './shape.ts';

/** An expression of a file. `tree` is absent when it did not parse, which was reported; such a file is never run. */
export type Expression = Readonly<{ kind: 'expression'; source: Source; tree: Node | undefined }>;

/**
 * The kinds of single values that keys take. Each reports what is wrong inside itself and still gives something, so
 * that the rest of the file is read and checked too. `description` reaches the reference and the JSON Schema.
 */
function leaf<T>(what: string, read: (scalar: YamlScalar, reading: Reading) => T, json: JsonSchema = SCALAR) {
  // One transform, not a check piped into one: files are mostly leaves, and each pipe costs as much as the leaf.
  const schema = z.transform((given: unknown, context): T => {
    if (typeof given === 'function') {
      const { node, reading } = (given as Leaf)();
      return read(node, reading);
    }
    context.issues.push({ code: 'custom', message: what, input: given });
    return z.NEVER;
  });
  return taking(schema, () => ({ what, json }));
}

/** A single value: what stands as a number or `true` in YAML is a text all the same where a text is meant. */
const SCALAR: JsonSchema = { type: ['string', 'number', 'boolean'] };

/** Any value, as one that computes from what is projected. */
function anyOf<T>(what: string, json: JsonSchema, read: (placed: Placed) => T) {
  return taking(
    z.transform((projected: unknown) => read(placedOf(projected))),
    () => ({ what, json }),
  );
}

function reportAt(
  reading: Reading,
  { range }: YamlScalar,
  code: Code,
  message: string,
  advice?: string,
  instead?: string,
): void {
  const fix = instead === undefined ? {} : { fix: { range, text: instead } };
  reading.report({ code, range, message, ...(advice === undefined ? {} : { advice }), ...fix });
}

/** A text without holes, and its place. */
export const word = (what = 'a text') => leaf(what, (scalar): Source => scalar.source);

/** A text with holes. A number's or boolean's source text is meant where only text can stand. */
export const text = (what = 'a text') => leaf(what, readText);

/** The name of a file, relative to the file in which it stands. */
export const fileName = () => text('the name of a file');

/** An expression, without braces. The scalar's text is the expression, whatever YAML takes it for. */
export const expression = (what = 'an expression') =>
  leaf(what, (scalar, reading): Expression => {
    const { source } = scalar;
    if (source.text.trim() === '') {
      reportAt(reading, scalar, 'does-not-parse', 'An expression is missing here');
      return { kind: 'expression', source, tree: undefined };
    }
    const { tree, problems } = readExpression(source.text);
    for (const problem of problems) reading.report(inFile(source, problem));
    return { kind: 'expression', source, tree };
  });

/** Parses an expression, and recognises what is often written in its place: a date without quotes, a hole. */
function readExpression(text: string): ReturnType<typeof parseExpression> {
  const day = text.includes('-') || text.includes(':') ? dateIn(text) : undefined;
  if (day) return { tree: undefined, problems: [day] };
  const parsed = parseExpression(text);
  if (parsed.tree || !/^\s*\{[^{}]*\}\s*$/.test(text)) return parsed;
  // The braces are read as blanks, so that places stay what they are.
  const inner = parseExpression(text.replace(/[{}]/g, ' '));
  if (!inner.tree || inner.problems.length > 0) return parsed;
  const range: Range = [text.indexOf('{'), text.lastIndexOf('}') + 1];
  const message = 'Braces are for holes in texts; an expression stands without them';
  const fix = { range, text: text.slice(range[0] + 1, range[1] - 1).trim(), sure: true as const };
  return {
    tree: inner.tree,
    problems: [{ code: 'braces-in-expression', range, message, advice: 'Leave them out.', fix }],
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
    const message = isTime ? 'A time of day is no value of its own' : 'A date without quotes is a subtraction';
    const call = `date_time('${found.replace(' ', 'T')}')`;
    const advice = isTime
      ? `Quote it as text: '${found}'.`
      : `Write ${call} for the instant, or '${found}' for the text.`;
    return { code: 'date-unquoted', range, message, advice, fix: { range, text: isTime ? `'${found}'` : call } };
  }
  return undefined;
}

/** `vessel in due`: the name of an item, and the list. */
export type EachHead = Readonly<{ name: Source; list: Expression; head: Source }>;

export const eachHead = () =>
  leaf(
    'NAME in LIST, such as vessel in due',
    (scalar, reading): EachHead | undefined => {
      const { source } = scalar;
      const found = /^(\s*)(\S+)(\s+in\s+)(?=\S)/.exec(source.text);
      if (!found) {
        const advice = 'As in: each: vessel in due';
        reportAt(reading, scalar, 'does-not-parse', `"${source.text}" is no NAME in LIST`, advice);
        return undefined;
      }
      const [whole, blank = '', name = ''] = found;
      const rest = slicedSource(source, whole.length, source.text.length);
      const { tree, problems } = readExpression(rest.text);
      for (const problem of problems) reading.report(inFile(rest, problem));
      return {
        name: slicedSource(source, blank.length, blank.length + name.length),
        list: { kind: 'expression', source: rest, tree },
        head: source,
      };
    },
    { type: 'string', pattern: '\\sin\\s' },
  );

/** A part of a text, which knows its place as the whole does. */
function slicedSource({ file, text: whole, locate }: Source, from: number, to: number): Source {
  return { file, text: whole.slice(from, to), locate: ([start, end]) => locate([start + from, end + from]) };
}

/** `2s`, or `1s to 30s`: a pause that stays, or doubles from the first to the last. In milliseconds. */
export const pause = () =>
  leaf(
    'a duration such as 2s, or two such as 1s to 30s',
    (scalar, reading) => {
      const [first, last = first] = scalar.source.text.split(/\s+to\s+/).map(parseMeasure);
      const isPause = first instanceof Duration && last instanceof Duration && first.milliseconds > 0;
      if (isPause && last.milliseconds >= first.milliseconds) {
        return { firstMs: first.milliseconds, lastMs: last.milliseconds };
      }
      const message = `"${scalar.source.text}" is no pause`;
      reportAt(reading, scalar, 'bad-measure', message, 'As in 2s, or 1s to 30s: the shorter one first.');
      return undefined;
    },
    { type: 'string' },
  );

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
          'bad-path',
          `"${source.text}" is no path`,
          'A path begins with $: $.job.id, $..at, $[*].id.',
        );
      }
      return { kind: 'expression', source, tree: isPath ? tree : undefined };
    },
    { type: 'string', pattern: '^\\$' },
  );

export const requestLine = () =>
  leaf(
    'a request line such as GET /vessels',
    (scalar, reading): RequestLine | undefined => {
      const { line, problems } = parseRequestLine(scalar.source);
      for (const problem of problems) reading.report(inFile(scalar.source, problem));
      return line;
    },
    { type: 'string', pattern: '^[A-Z][A-Z0-9_-]*\\s+\\S' },
  );

/** `true` or `false`. */
export const flag = () =>
  leaf(
    'true or false',
    (scalar, reading) => {
      const value = scalarValue(scalar);
      if (typeof value === 'boolean') return value;
      reportAt(reading, scalar, 'wrong-kind', `This takes true or false, and this is "${scalar.source.text}"`);
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
        reportAt(reading, scalar, 'wrong-kind', `"${given}" is none of ${words.join(', ')}`, didYouMean(given, words));
      }
      return found;
    },
    { enum: [...words] },
  );

/** A number such as a port or a count. */
export const wholeNumber = (what = 'a whole number') =>
  leaf(
    what,
    (scalar, reading) => {
      const value = scalarValue(scalar);
      if (typeof value === 'number' && Number.isInteger(value) && value >= 0) return value;
      reportAt(reading, scalar, 'wrong-kind', `This takes ${what}, and this is "${scalar.source.text}"`);
      return undefined;
    },
    { type: 'integer', minimum: 0 },
  );

/** A length of time such as `10s`, in milliseconds. */
export const duration = () =>
  leaf(
    'a duration such as 10s',
    (scalar, reading) => {
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
    },
    { type: 'string', pattern: '^[0-9]+([.][0-9]+)?(ms|s|m|h|d)$' },
  );

/** A size such as `64MiB`, in bytes. */
export const byteSize = () =>
  leaf(
    'a size such as 64MiB',
    (scalar, reading) => {
      const { tree } = parseExpression(scalar.source.text);
      const value = tree?.kind === 'literal' ? tree.value : undefined;
      if (typeof value === 'number' && value > 0) return value;
      const advice = 'A size is a number and B, kB, MB, GB, KiB, MiB or GiB: 64MiB.';
      reportAt(reading, scalar, 'bad-measure', `"${scalar.source.text}" is no size`, advice);
      return undefined;
    },
    { type: 'string', pattern: '^[0-9]+([.][0-9]+)?(B|kB|MB|GB|KiB|MiB|GiB)$' },
  );

function parseMeasure(written: string): Value | undefined {
  const { tree } = parseExpression(written);
  return tree?.kind === 'literal' ? tree.value : undefined;
}

/** Any YAML value, its texts with holes. In a body numbers are numbers; where only text can stand, their digits are. */
export const value = () => anyOf('a value', {}, (at) => readValue(at, 'value'));

/** The same as a JSON body, in which `yes` and `no` are probably meant as conditions. */
export const jsonValue = () => anyOf('a value', {}, (at) => readValue(at, 'json'));

/** A parameter or header: a text, null to leave it out, or with `lists` several of them. */
export const parameter = () => anyOf('a text, null, or a list of texts', PARAMETER, (at) => readValue(at, 'text'));

const PARAMETER: JsonSchema = { anyOf: [SCALAR, { type: 'null' }, { type: 'array', items: SCALAR }] };

/** A constant of any kind, in which braces are only braces. */
export const constant = () => anyOf('a value without holes', {}, readConstant);

/** A value with holes, and where it stands. */
export const sourcedValue = () =>
  anyOf('a value', {}, (at) => ({ value: readValue(at, 'value'), source: sourceOfNode(at) }));

/** A constant, and where it stands. */
export const sourcedConstant = () =>
  anyOf('a value without holes', {}, (at) => ({ value: readConstant(at), source: sourceOfNode(at) }));

/** The name of a file, or a constant that is no text. */
export const fileOrConstant = () =>
  anyOf('the name of a file, or a value', {}, (at): { source: Source; file?: Source; value?: Value } => {
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

export type NamedEntry<T> = Readonly<{ name: string; nameRange: Range; file: SourceFile; value: T }>;
export type Named<T> = readonly NamedEntry<T>[];

/** A flow mapping that is only a name in braces: a hole that lacks its quotes. */
function isBareHole({ node, reading }: Placed): boolean {
  if (node.kind !== 'map' || !node.flow || node.entries.length === 0) return false;
  return node.entries.every(
    ({ value: member, keyRange }) =>
      member.kind === 'scalar' &&
      member.range[0] === member.range[1] &&
      /^\s*[,}]/.test(reading.file.text.slice(keyRange[1])),
  );
}

function readText(scalar: YamlScalar, reading: Reading): TextTemplate {
  const { template, problems } = parseTemplate(scalar.source);
  for (const problem of problems) reading.report(inFile(scalar.source, problem));
  return template;
}

function readValue({ node, reading }: Placed, place: 'value' | 'json' | 'text'): ValueTemplate {
  if (node.kind === 'list') {
    return { kind: 'list', items: node.items.map((item) => readValue({ node: item, reading }, place)) };
  }
  if (node.kind === 'map') {
    if (isBareHole({ node, reading })) {
      const message = 'YAML reads this as a mapping';
      reading.report({ code: 'eaten-by-yaml', range: node.range, message, advice: 'Put it in quotes.' });
    }
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
      `'${node.source.text}'`,
    );
  }
  const constantValue = scalarValue(node);
  if (place === 'json' && node.plain && /^(?:y|n|yes|no|on|off)$/i.test(node.source.text)) {
    const { text: word } = node.source;
    const meant = /^(?:y|yes|on)$/i.test(word);
    const message = `"${word}" is a text in YAML 1.2, and is sent as one`;
    const advice = `Write ${meant} for the condition, or '${word}' for the text.`;
    reportAt(reading, node, 'yes-is-text', message, advice, String(meant));
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
