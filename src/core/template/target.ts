import type { Range } from '../diagnostics/problem.ts';
import type { Source } from '../diagnostics/source.ts';
import { isList, Mask, type Maybe } from '../value/value.ts';
import { encodeUnreserved } from '../value/percent.ts';
import { fillFault, foundNothing, type Resolver } from './fill.ts';
import type { Target, TargetPart } from './request-line.ts';
import type { Placeholder } from './template.ts';
import { encodeValue, expand, NoUriForm, OPERATORS, type UriOperator } from './uri-template.ts';

/**
 * Builds the text of a target: stricter than RFC 6570, since a lost value changes which resource is hit. Nothing is
 * an error but for an optional input in a query; so are null and empty text in `{x}` and `{+x}`, and a path segment
 * that a value makes `.` or `..`. Throws `FillFault`.
 */
export function fillTarget(target: Target, resolver: Resolver): string {
  if (target.kind === 'reference') return fillReference(target, resolver);
  let text = '';
  let fragile: Placeholder | undefined;
  for (const part of target.parts) {
    text += part.kind === 'literal' ? part.text : fillPart(part, resolver);
    if (part.kind !== 'literal')
      fragile = part.kind === 'placeholder' ? part.placeholder : part.variables[0]!.placeholder;
  }
  if (fragile && hasDotSegment(text)) {
    fillFault(target.source, {
      code: 'invalid-value',
      range: fragile.range,
      message: 'This value makes a path segment "." or "..", which would address another resource',
      advice: 'Check where the value comes from.',
    });
  }
  return text;
}

/** Whether the path of a URL or target has a segment `.` or `..`, which any server would take for another path. */
function hasDotSegment(text: string): boolean {
  return /^(?:https?:\/\/[^/?#]*)?[^?#]*\/(?:\.|%2e){1,2}(?:[/?#]|$)/i.test(text);
}

/** `GET {job_url}`: a URL reference as an API gives it, not encoded again. */
function fillReference(target: Target, resolver: Resolver): string {
  const [part] = target.parts;
  const placeholder =
    part!.kind === 'placeholder'
      ? part!.placeholder
      : (part as Extract<TargetPart, { kind: 'variables' }>).variables[0]!.placeholder;
  const value = resolver.value(placeholder);
  if (value === undefined) foundNothing(placeholder);
  if (value instanceof Mask) return value.toString();
  if (typeof value !== 'string' || value === '') {
    fillFault(target.source, {
      code: 'invalid-value',
      range: placeholder.range,
      message: 'A target that is one placeholder needs a URL as a string',
    });
  }
  const illegal = /[\u0000-\u0020"<>\\^`{|}\u007f-\uffff]/.exec(value);
  if (illegal) {
    const message = `The URL has the character ${JSON.stringify(illegal[0])}, which is not valid in URLs`;
    fillFault(target.source, {
      code: 'invalid-value',
      range: placeholder.range,
      message,
      advice: 'For a path with placeholders write /path/{value}.',
    });
  }
  return value;
}

function fillPart(part: Exclude<TargetPart, { kind: 'literal' }>, resolver: Resolver): string {
  if (part.kind === 'placeholder') {
    const value = checked(part.placeholder, part.operator, resolver);
    return inUrl(part.placeholder.source, part.placeholder.range, () =>
      expand(part.operator, [[{ name: '', explode: false }, value]]),
    );
  }
  const values = part.variables.map(
    (variable) => [variable, checked(variable.placeholder, part.operator, resolver)] as const,
  );
  const { source } = part.variables[0]!.placeholder;
  return inUrl(source, part.range, () => expand(part.operator, values));
}

/** The value of a placeholder in a target, with what is stricter here than in RFC 6570. */
function checked(placeholder: Placeholder, operator: UriOperator, resolver: Resolver): Maybe {
  const value = resolver.value(placeholder);
  if (value === undefined) {
    if (OPERATORS[operator].named && resolver.leavesOut(placeholder)) return undefined;
    foundNothing(placeholder);
  }
  const isEmpty = value === null || value === '' || (isList(value) && value.length === 0);
  if (isEmpty && (operator === '' || operator === '+')) {
    const what = value === null ? 'null' : value === '' ? 'an empty string' : 'an empty array';
    fillFault(placeholder.source, {
      code: 'invalid-value',
      range: placeholder.range,
      message: `The value is ${what}, and without it the URL addresses another resource`,
      advice: 'Check where the value comes from. For an optional query parameter use {?name} or query.',
    });
  }
  return value;
}

function inUrl(source: Source, range: Range, build: () => string): string {
  try {
    return build();
  } catch (error) {
    if (!(error instanceof NoUriForm)) throw error;
    const message = `The value is ${error.reason.what}, which cannot be part of a URL`;
    return fillFault(source, { code: 'invalid-value', range, message, advice: error.reason.advice });
  }
}

/** `name=value` of a query; a space is `%20` (RFC 3986), never `+`. */
export function queryPair(name: string, value: Parameters<typeof encodeValue>[0]): string {
  return `${encodeUnreserved(name)}=${encodeValue(value)}`;
}
