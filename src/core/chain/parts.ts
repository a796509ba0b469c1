import type { Range } from '../diagnostics/problem.ts';
import type { Source } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import type { RequestTemplate } from '../http/endpoint.ts';
import type { Expectation } from '../http/expectation.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import { targetPlaceholders, type Target } from '../template/request-line.ts';
import {
  placeholdersOf,
  textsOf,
  type Placeholder,
  type TextTemplate,
  type ValueTemplate,
} from '../template/template.ts';
import type { ValueType } from '../value/value.ts';
import type { StatusArm, Step } from './model.ts';

/** What a part adds to the place of its step; `means` are names that mean something there. */
export type At = Readonly<{
  /** The key of the file that it stands under. */
  key?: string;
  /** Whether the response is there to be read. */
  response?: boolean;
  /** Whether a whole value is left out when it is nothing because of an optional input. */
  leftOut?: boolean;
  means?: readonly string[];
  /** Whether nothing but `means` has a meaning there: in a credential. */
  only?: boolean;
}>;

/** What a text is for. Rules on files and secrets ask for all of a sort. */
type TextUse = 'text' | 'file-read' | 'file-written' | 'query' | 'header' | 'body' | 'credential' | 'value';

type ExpressionPart = Readonly<{
  sort: 'expression';
  expression: Expression;
  role: 'value' | 'condition';
  at: At;
}>;
type TextPart = Readonly<{ sort: 'text'; text: TextTemplate; use: TextUse; at: At }>;

/** A name that a step binds: by the value of an expression, which is shown just before, or by what it is said to be. */
export type BindingPart = Readonly<{
  sort: 'binding';
  name: string;
  range: Range;
  what: 'keep' | 'let' | 'item' | 'gather' | 'carry';
  /** How, in words: `kept by arrivals`. */
  by: string;
  /** The expression that gives the value. */
  value: Expression | undefined;
  /** What else decides whether the value is secret. */
  from: readonly Node[];
  kind: ValueType | undefined;
  /** A further condition under which it is bound. */
  under: readonly string[];
  at: At;
}>;

/**
 * One part of a step, in the order in which it comes into play. All that goes over chains (checks, masks, plans, previews)
 * goes over these, so that what a new key holds is found everywhere once its step kind names it here.
 */
export type Part =
  | ExpressionPart
  | TextPart
  | BindingPart
  | Readonly<{ sort: 'target'; target: Target; at: At }>
  /** A file that is read by a fixed name: another chain, or a JSON Schema. */
  | Readonly<{ sort: 'file'; source: Source; of: 'chain' | 'schema' }>
  | Readonly<{ sort: 'expectation'; expectation: Expectation; parts: readonly Part[]; at: At }>
  | Readonly<{ sort: 'request'; parts: readonly Part[] }>
  /** Steps in order, or at the same time. */
  | Readonly<{ sort: 'steps'; steps: readonly Step[]; order: 'one-by-one' | 'together' }>
  /** Steps of which one list is run, as the condition says. */
  | Readonly<{ sort: 'arms'; condition: Expression; arms: readonly [readonly Step[], readonly Step[]] }>
  /** What a call keeps, and in its place the steps for some statuses of its response. */
  | Readonly<{ sort: 'answers'; of: string; parts: readonly Part[]; arms: readonly StatusArm[] }>
  /** What has a scope of its own for each item, or is done again in each round, which may bind the carried names again. */
  | Readonly<{ sort: 'scope'; of: 'item'; text: string; parts: readonly Part[] }>
  | Readonly<{ sort: 'scope'; of: 'round'; carried: readonly string[]; parts: readonly Part[] }>;

export function expressionPart(expression: Expression | undefined, at: At = {}): readonly ExpressionPart[] {
  return expression ? [{ sort: 'expression', expression, role: 'value', at }] : [];
}

export function conditionPart(expression: Expression | undefined, at: At = {}): readonly ExpressionPart[] {
  return expression ? [{ sort: 'expression', expression, role: 'condition', at }] : [];
}

export function textPart(text: TextTemplate | undefined, use: TextUse, at: At = {}): readonly TextPart[] {
  return text ? [{ sort: 'text', text, use, at }] : [];
}

/** The texts of values by name. */
export function namedParts(entries: Named<ValueTemplate>, use: TextUse, at: At): readonly TextPart[] {
  return entries.flatMap(({ value }) => valueParts(value, use, at));
}

export function valueParts(value: ValueTemplate, use: TextUse, at: At): readonly TextPart[] {
  return textsOf(value).map((text) => ({ sort: 'text', text, use, at }));
}

/** Entries of `keep` and the like, each seeing those before it. */
export function bindingParts(
  entries: Named<Expression>,
  binding: Pick<BindingPart, 'what' | 'by'> & Partial<Pick<BindingPart, 'at' | 'under'>>,
): readonly BindingPart[] {
  return entries.map(({ name, nameRange, value }) =>
    bindingOf(name, nameRange, { kind: undefined, ...binding, value, from: value.tree ? [value.tree] : [] }),
  );
}

/** A binding whose value is no single expression unless it is said. */
export function bindingOf(
  name: string,
  range: Range,
  said: Pick<BindingPart, 'what' | 'by' | 'from' | 'kind'> & Partial<BindingPart>,
): BindingPart {
  return { value: undefined, under: [], at: {}, ...said, sort: 'binding', name, range };
}

/** One text of a request, or its target, and what it is called in records. */
type RequestText = Readonly<{ place: string; part: TextPart | Extract<Part, { sort: 'target' }> }>;

/** Every text of a request in the order in which they are filled. */
export function requestTexts({ line, query, headers, body, idempotencyKey }: RequestTemplate): readonly RequestText[] {
  const named = (what: string, use: TextUse, key: string, entries: Named<ValueTemplate>) =>
    entries.flatMap(({ name, value }) =>
      valueParts(value, use, { key, leftOut: true }).map((part) => ({ place: `${what} ${name}`, part })),
    );
  const files = new Set(body?.files);
  return [
    ...(line ? [{ place: 'target', part: { sort: 'target' as const, target: line.target, at: {} } }] : []),
    ...named('query', 'query', 'query', query),
    ...named('header', 'header', 'headers', headers),
    ...(body?.texts ?? []).map((text): RequestText => {
      const use = files.has(text) ? 'file-read' : 'body';
      return { place: body!.key, part: { sort: 'text', text, use, at: { key: body!.key, leftOut: true } } };
    }),
    ...textPart(idempotencyKey === true ? undefined : idempotencyKey, 'header', { key: 'idempotency-key' }).map(
      (part) => ({ place: 'idempotency-key', part }),
    ),
  ];
}

const filledIn = new WeakMap<RequestTemplate, readonly Placeholder[]>();

/** Every placeholder of a request, those of its own credential too; worked out once for each request. */
export function placeholdersOfRequest(request: RequestTemplate): readonly Placeholder[] {
  let found = filledIn.get(request);
  if (!found) {
    const { auth } = request;
    const own = auth === undefined || auth === 'none' ? [] : auth.texts.flatMap(placeholdersOf);
    found = [...requestTexts(request).flatMap(({ part }) => placeholdersOfPart(part)), ...own];
    filledIn.set(request, found);
  }
  return found;
}

/** A request with its credentials. `key` is that of the step's file key where it is not the call's own request. */
export function requestPart(request: RequestTemplate, key?: string): Part {
  const { auth } = request;
  const own = auth === undefined || auth === 'none' ? undefined : auth;
  const at: At = { key: 'auth', means: own?.names ?? [], only: true };
  const secrets = new Set(own?.secrets);
  return {
    sort: 'request',
    parts: [
      ...requestTexts(request).map(({ part }) => ({ ...part, at: { ...(key ? { key } : {}), ...part.at } })),
      ...(own?.texts ?? []).flatMap((text) => textPart(text, secrets.has(text) ? 'credential' : 'value', at)),
      ...(own?.chain ? [{ sort: 'file' as const, source: own.chain.file, of: 'chain' as const }] : []),
    ],
  };
}

/** The placeholders of a text or of a target. */
export function placeholdersOfPart(part: RequestText['part']): readonly Placeholder[] {
  return part.sort === 'text' ? placeholdersOf(part.text) : targetPlaceholders(part.target);
}

/** The expressions of a part itself, each with the text that it stands in. */
export function nodesOfPart(part: Part): readonly (readonly [Node, Source])[] {
  switch (part.sort) {
    case 'expression':
      return part.expression.tree ? [[part.expression.tree, part.expression.source]] : [];
    case 'binding':
      return part.value?.tree ? [[part.value.tree, part.value.source]] : [];
    case 'text':
    case 'target':
      return placeholdersOfPart(part).map(({ node, source }) => [node, source] as const);
    default:
      return [];
  }
}
