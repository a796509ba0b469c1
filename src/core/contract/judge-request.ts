import { didYouMean } from '../diagnostics/suggest.ts';
import { writtenPath } from '../path/normalized.ts';
import { pointerPart } from '../value/json-pointer.ts';
import { keysOfPointer } from '../schema/json-schemas.ts';
import { showValue } from '../value/show.ts';
import { mediaTypeOf } from '../http/decode.ts';
import type { Value } from '../value/value.ts';
import type { Contract } from './contract.ts';
import type { Placed, PlaceInFile } from './documents.ts';
import { contentFor } from './judge-response.ts';
import type { Operation, Parameter } from './operation.ts';
import { membersOf, plainObject } from './plain.ts';
import { valueOfText } from './parameter-text.ts';
import { Shaper } from './shape-at.ts';

/** What is known of a request before it is sent: a value that is not known yet is nothing. */
export type KnownRequest = Readonly<{
  query: readonly KnownParameter[];
  headers: readonly KnownParameter[];
  /** The value of each template of the path. */
  path: readonly KnownParameter[];
  /** Whether further parameters may come that are not known yet. */
  isOpen: boolean;
  body: Readonly<{ type: string; value?: KnownBody }> | undefined;
}>;

export type KnownParameter = Readonly<{ name: string; text: string | undefined }>;

/** A JSON body with something else in place of what is not known, and where that is. */
export type KnownBody = Readonly<{ value: unknown; unknown: readonly string[] }>;

/** Something of a request that its operation does not allow, and which part of the request it is. */
export type RequestDeparture = Readonly<{
  part: 'query' | 'header' | 'path' | 'body';
  /** The name of the parameter, or the pointer into the body. */
  name: string;
  message: string;
  advice?: string | undefined;
  at: PlaceInFile;
}>;

/** What of a request does not fit its operation, as far as it is known. Throws `DescriptionFault`. */
export function requestDepartures(
  contract: Contract,
  operation: Operation,
  request: KnownRequest,
): readonly RequestDeparture[] {
  return [
    ...ofParameters(contract, operation, request, 'query'),
    ...ofParameters(contract, operation, request, 'header'),
    ...ofParameters(contract, operation, request, 'path'),
    ...ofBody(contract, operation, request),
  ];
}

function ofParameters(
  contract: Contract,
  operation: Operation,
  request: KnownRequest,
  part: 'query' | 'header' | 'path',
): readonly RequestDeparture[] {
  const described = operation.parameters.filter((each) => each.in === part && isSaid(each));
  const given = { query: request.query, header: request.headers, path: request.path }[part];
  const sameName = (a: string, b: string) =>
    part === 'header' ? a.toLowerCase() === b.toLowerCase() : a === b || memberName(a, described) === b;
  const missing = described
    .filter(({ required, name }) => required && part !== 'path' && !given.some((each) => sameName(each.name, name)))
    .map(({ name, at }) => ({ part, name, message: `The ${WORDS[part]} ${name} is required`, at }));
  return [
    ...(request.isOpen ? [] : missing),
    ...given.flatMap((each): readonly RequestDeparture[] => {
      const parameter = described.find(({ name }) => sameName(each.name, name));
      if (parameter) return ofValue(contract, parameter, each, part);
      const meant = didYouMean(
        each.name,
        described.map(({ name }) => name),
      );
      // Of headers an API takes more than its description says.
      if (part === 'path' || (part === 'header' && meant === undefined)) return [];
      const names = described.map(({ name }) => name).join(', ');
      const advice = meant ?? (names === '' ? 'It has none.' : `It has ${names}.`);
      return [
        {
          part,
          name: each.name,
          message: `The ${WORDS[part]} ${each.name} is not described`,
          advice,
          at: operation.at,
        },
      ];
    }),
  ];
}

const WORDS = { query: 'parameter', header: 'header', path: 'path parameter' } as const;

/** Headers that parameters do not speak of (OpenAPI 3.1 section 4.8.12.2). */
function isSaid({ in: place, name }: Parameter): boolean {
  return place !== 'header' || !/^(?:accept|content-type|authorization)$/i.test(name);
}

/** `filter` of `filter[day]`, where an object is written member by member. */
function memberName(name: string, described: readonly Parameter[]): string | undefined {
  const plain = /^([^[]+)\[[^\]]*\]$/.exec(name)?.[1];
  return described.some((each) => each.name === plain && each.style === 'deepObject') ? plain : undefined;
}

function ofValue(
  contract: Contract,
  { name, schema, style }: Parameter,
  { text }: KnownParameter,
  part: 'query' | 'header' | 'path',
): readonly RequestDeparture[] {
  if (text === undefined || !schema || style === 'deepObject') return [];
  const unfit = contract.unfit(valueOfText(text, schema, contract.description), schema, 'request');
  return unfit.slice(0, 1).map(({ message, at }) => ({
    part,
    name,
    message: `The ${WORDS[part]} ${name} ${message}, not ${showValue(text, 60)}`,
    at,
  }));
}

function ofBody(contract: Contract, operation: Operation, { body }: KnownRequest): readonly RequestDeparture[] {
  const described = operation.body;
  const problem = (message: string, at: PlaceInFile, advice?: string): RequestDeparture => ({
    part: 'body',
    name: '',
    message,
    advice,
    at,
  });
  if (!body) return described?.required ? [problem('A body is required', described.at)] : [];
  if (!described) return [problem('A body is not described', operation.at)];
  const content = contentFor(described.content, mediaTypeOf(body.type).type);
  if (!content) {
    const offered = described.content.map(({ type }) => type).join(', ');
    return [problem(`The media type ${body.type} is not offered`, described.at, `Offered is ${offered}.`)];
  }
  if (!body.value || !content.schema) return [];
  const { value, unknown } = body.value;
  const all = contract.unfit(value, content.schema, 'request');
  const unfit = all.filter(({ pointer, at }) => !hangsOn(pointer, at.pointer, unknown));
  return [
    ...unfit.map(({ pointer, message, at }) => ({
      part: 'body' as const,
      name: pointer,
      message: inBody(pointer, message, value),
      at,
    })),
    ...misspelt(contract, content.schema, value),
  ];
}

function inBody(pointer: string, message: string, value: unknown): string {
  const keys = keysOfPointer(pointer, value as Value);
  return `${keys.length === 0 ? 'The body' : writtenPath(keys)} ${message}`;
}

/** Whether a misfit may be gone once what is not known has its value: there, below, or of alternatives around it. */
function hangsOn(pointer: string, keyword: string, unknown: readonly string[]): boolean {
  const isOfAlternatives = /\/(?:oneOf|anyOf|not|if|then|else|contains|uniqueItems)(?:\/|$)/.test(keyword);
  return unknown.some(
    (each) =>
      pointer === each ||
      pointer.startsWith(`${each}/`) ||
      (isOfAlternatives && (each.startsWith(`${pointer}/`) || pointer === '')),
  );
}

/** Members that are nearly others of their schema. */
function misspelt(contract: Contract, schema: Placed, value: unknown): readonly RequestDeparture[] {
  const shaper = new Shaper(contract.description);
  const found: RequestDeparture[] = [];
  const visit = (at: unknown, shapes: readonly Placed[], pointer: string): void => {
    if (Array.isArray(at)) {
      const items = shaper.items(shapes);
      if (items && items.length > 0) at.forEach((each, i) => visit(each, items, pointer + pointerPart(i)));
      return;
    }
    for (const [name, member] of membersOf(plainObject(at))) {
      const below = shaper.member(shapes, name);
      const meant = below.shapes === undefined || below.shapes.length === 0 ? didYouMean(name, below.known) : undefined;
      if (meant !== undefined && !below.known.includes(name)) {
        const message = `The body has "${name}", which is not described`;
        found.push({ part: 'body', name: pointer + pointerPart(name), message, advice: meant, at: shapes[0]! });
      } else if (below.shapes && below.shapes.length > 0) visit(member, below.shapes, pointer + pointerPart(name));
    }
  };
  visit(value, [schema], '');
  return found;
}
