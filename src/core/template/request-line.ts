import type { Problem, Range } from '../diagnostics/problem.ts';
import type { Source } from '../diagnostics/source.ts';
import { parseExpression, parsePlaceholder } from '../expression/parse.ts';
import type { Node } from '../expression/model.ts';
import { encodeReserved } from '../value/percent.ts';
import type { Placeholder } from './template.ts';
import type { UriOperator, Variable } from './uri-template.ts';

/** A part of a target: text with what no URL can hold encoded, an RFC 6570 expression, or an expression of our own to be encoded whole. */
export type TargetPart =
  | Readonly<{ kind: 'literal'; text: string }>
  | Readonly<{
      kind: 'variables';
      operator: UriOperator;
      range: Range;
      variables: readonly (Variable & { placeholder: Placeholder })[];
    }>
  | Readonly<{ kind: 'placeholder'; operator: UriOperator; placeholder: Placeholder }>;

/** Where a request goes: a URL reference as an API gave it, an absolute URL, or a path under the api's URL. */
export type Target = Readonly<{
  kind: 'reference' | 'absolute' | 'path';
  source: Source;
  parts: readonly TargetPart[];
}>;

export type RequestLine = Readonly<{ method: string; source: Source; target: Target }>;

const LINE = /^([^\s/{]+)?\s*/;
const METHOD = /^[A-Z][A-Z0-9_-]*$/;
const NAME = String.raw`[A-Za-z_\u0080-\uffff][A-Za-z0-9_\u0080-\uffff]*(?:\.[A-Za-z_\u0080-\uffff][A-Za-z0-9_\u0080-\uffff]*)*`;
const VARIABLE = String.raw`\s*${NAME}(?::[1-9][0-9]{0,3}|\*)?\s*`;
const EXPRESSION = new RegExp(String.raw`\{([+#./;?&]?)(${VARIABLE}(?:,${VARIABLE})*)\}`, 'y');

/**
 * `METHOD target`. Each placeholder of the target is tried as an expression of RFC 6570, else taken as an expression whose
 * value is percent-encoded whole. Never throws; `line` is absent when nothing can be made of the text.
 */
export function parseRequestLine(
  source: Source,
): Readonly<{ line: RequestLine | undefined; problems: readonly Problem[] }> {
  const { text } = source;
  const method = LINE.exec(text)?.[1];
  const start = LINE.exec(text)![0].length;
  if (method === undefined || !METHOD.test(method) || !/\s/.test(text[method.length] ?? '')) {
    return { line: undefined, problems: [noMethod(text, method)] };
  }
  const problems: Problem[] = [];
  const parts = parseTarget(source, start, (problem) => problems.push(problem));
  const kind = kindOfTarget(parts, text.slice(start));
  if (kind === undefined) {
    problems.push({
      code: 'invalid-target',
      range: [start, Math.max(text.length, start + 1)],
      message:
        start >= text.length
          ? 'The target is missing'
          : 'A target is a path that begins with "/", an absolute URL, or one placeholder',
      advice: 'Write it as the API documents it: GET /vessels/{id}.',
    });
  } else if (kind === 'absolute') {
    const authority = /^https?:\/\/[^/?#]*/.exec(text.slice(start))![0];
    if (authority.includes('{')) {
      const range: Range = [start, start + authority.length];
      const message = 'The scheme, host and port cannot have placeholders';
      problems.push({
        code: 'invalid-target',
        range,
        message,
        advice: 'Put what differs between deployments into the url of the API.',
      });
    }
  }
  return { line: { method, source, target: { kind: kind ?? 'path', source, parts } }, problems };
}

function noMethod(text: string, word: string | undefined): Problem {
  const upper = word?.toUpperCase();
  const isLower =
    upper !== undefined &&
    upper !== word &&
    METHOD.test(upper) &&
    /^(GET|HEAD|POST|PUT|PATCH|DELETE|OPTIONS|TRACE)$/.test(upper);
  return {
    code: 'no-method',
    range: [0, Math.max(word?.length ?? 0, 1)],
    message: isLower ? 'Methods are written in capitals' : 'A request line begins with a method',
    advice: isLower
      ? `Write ${upper}${text.slice(word!.length)}.`
      : `Write GET ${text.startsWith('/') ? text : '/path'}, or POST, PUT, PATCH, DELETE.`,
  };
}

function kindOfTarget(parts: readonly TargetPart[], text: string): Target['kind'] | undefined {
  if (/^https?:\/\//.test(text)) return 'absolute';
  if (text.startsWith('/')) return 'path';
  const [only] = parts;
  if (parts.length !== 1 || only!.kind === 'literal') return undefined;
  if (only!.operator === '/') return 'path';
  const single = only!.kind === 'placeholder' || only!.variables.length === 1;
  return single && (only!.operator === '' || only!.operator === '+') ? 'reference' : undefined;
}

function parseTarget(source: Source, start: number, report: (problem: Problem) => void): readonly TargetPart[] {
  const { text } = source;
  const parts: TargetPart[] = [];
  let at = start;
  while (at < text.length) {
    const brace = text.slice(at).search(/[{}]/);
    const end = brace < 0 ? text.length : at + brace;
    if (end > at) {
      reportBlanks(text, at, end, report);
      parts.push({ kind: 'literal', text: encodeReserved(text.slice(at, end)) });
    }
    if (end === text.length) break;
    if (text.startsWith('{{', end) || text[end] === '}') {
      const name = /^\{\{\s*([\w.]+)\s*\}\}/.exec(text.slice(end));
      const advice = name ? `Write {${name[1]}}.` : 'Write %7B and %7D for literal braces.';
      report({
        code: 'doubled-brace',
        range: [end, end + (name ? name[0].length : 1)],
        message: 'A URL cannot have a literal brace',
        advice,
      });
      at = end + (name ? name[0].length : text[end] === '}' ? 1 : 2);
      continue;
    }
    const parsed = parseUriExpression(source, end) ?? parseOwnExpression(source, end, report);
    if (!parsed) break;
    parts.push(parsed.part);
    at = parsed.end;
  }
  return parts;
}

function reportBlanks(text: string, from: number, to: number, report: (problem: Problem) => void): void {
  const blank = text.slice(from, to).search(/\s/);
  if (blank < 0) return;
  const range: Range = [from + blank, from + blank + 1];
  report({
    code: 'space-in-target',
    range,
    message: 'A target cannot have a space',
    advice: 'Write %20 for a literal space, or put the value into a placeholder.',
  });
}

type ParsedPart = Readonly<{ part: TargetPart; end: number }>;

function parseUriExpression(source: Source, start: number): ParsedPart | undefined {
  EXPRESSION.lastIndex = start;
  const match = EXPRESSION.exec(source.text);
  if (!match) return undefined;
  let offset = start + 1 + match[1]!.length;
  const range: Range = [start, start + match[0].length];
  const variables = match[2]!.split(',').map((spec) => {
    const [, blank, name, modifier] = /^(\s*)([^\s:*]+)(\*|:\d+)?/.exec(spec)!;
    const nameStart = offset + blank!.length;
    offset += spec.length + 1;
    const node = shifted(parseExpression(name!).tree!, nameStart);
    const placeholder: Placeholder = { range, node, source };
    const explode = modifier === '*';
    return {
      name: name!,
      explode,
      placeholder,
      ...(modifier && !explode ? { prefix: Number(modifier.slice(1)) } : {}),
    };
  });
  return { part: { kind: 'variables', operator: match[1] as UriOperator, range, variables }, end: range[1] };
}

/** A path of plain names, moved to where it stands in the request line. */
function shifted(node: Node, by: number): Node {
  if (node.kind !== 'path' || node.start.kind !== 'name') return node;
  const move = ([from, to]: Range): Range => [from + by, to + by];
  const segments = node.segments.map((segment) => ({
    ...segment,
    range: move(segment.range),
    selectors: segment.selectors.map((selector) => ({ ...selector, range: move(selector.range) })),
  }));
  return { ...node, range: move(node.range), start: { ...node.start, range: move(node.start.range) }, segments };
}

function parseOwnExpression(source: Source, start: number, report: (problem: Problem) => void): ParsedPart | undefined {
  const { text } = source;
  const sign = text[start + 1] ?? '';
  if (sign !== '' && '=,!@|'.includes(sign)) {
    const message = `"${sign}" is reserved in URI Templates (RFC 6570)`;
    report({
      code: 'reserved-sign',
      range: [start + 1, start + 2],
      message,
      advice: 'Compute the value with let first, and use its name here.',
    });
    return undefined;
  }
  const named = sign !== '' && '?&;'.includes(sign);
  const operator = (sign !== '' && '+#./?&;'.includes(sign) ? sign : '') as UriOperator;
  const parsed = parsePlaceholder(text, start + 1 + operator.length);
  parsed.problems.forEach(report);
  if (!parsed.tree) return undefined;
  const range: Range = [start, parsed.end];
  if (named) {
    report({
      code: 'parameter-unnamed',
      range,
      message: `A parameter needs a name, and {${sign}...} takes it from plain names only`,
      advice: 'Put the parameter under query with its name.',
    });
  }
  return {
    part: { kind: 'placeholder', operator: named ? '' : operator, placeholder: { range, node: parsed.tree, source } },
    end: parsed.end,
  };
}

/** Every placeholder of a request line, in order. */
export function targetPlaceholders({ parts }: Target): readonly Placeholder[] {
  return parts.flatMap((part) => {
    if (part.kind === 'literal') return [];
    return part.kind === 'placeholder' ? [part.placeholder] : part.variables.map((variable) => variable.placeholder);
  });
}

/** The placeholders of a target that are left out when they are nothing because of an optional input: those of `{?..}` and the like. */
export function leavesOutOf({ parts }: Target): ReadonlySet<Placeholder> {
  return new Set(
    parts.flatMap((part) =>
      part.kind === 'variables' && ['?', '&', ';'].includes(part.operator)
        ? part.variables.map(({ placeholder }) => placeholder)
        : [],
    ),
  );
}
