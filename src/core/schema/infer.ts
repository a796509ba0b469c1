import { isNumber, numberText } from '../value/numbers.ts';
import { isList, isObject, type Value } from '../value/value.ts';
import type { JsonSchema } from './input.ts';

/** Formats of JSON Schema (2020-12, validation section 7.3) that a text shows by itself. */
const FORMATS: readonly (readonly [format: string, pattern: RegExp])[] = [
  ['date-time', /^\d{4}-\d\d-\d\d[Tt]\d\d:\d\d:\d\d(?:\.\d+)?(?:[Zz]|[+-]\d\d:\d\d)$/],
  ['date', /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])$/],
  ['uuid', /^[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}$/i],
  ['uri', /^https?:\/\/[^\s<>"{}|\\^`]+$/],
  ['email', /^[\w.+-]+@[\w-]+(?:\.[\w-]+)+$/],
  ['ipv4', /^(?:(?:25[0-5]|2[0-4]\d|1?\d?\d)(?:\.(?!$)|$)){4}$/],
];

/** Members whose strings are one of a few by what they are called. */
const OF_A_FEW =
  /(?:^|[_-]|(?<=[a-z])(?=[A-Z]))(?:state|status|type|kind|mode|phase|stage|role|level|severity|priority)$/i;

/** So many strings must be there, of so few different ones, each so often, before they are taken for all that there are. */
const ENUMERATION = { least: 10, different: 6, each: 2, length: 40 };

/** Names of members that are data: an object of many of them maps ids to values. */
const ID = /^(?:\d+|[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12})$/i;

/** A secret in a record. */
const MASK = /^\u2039[^\u2039\u203a]+\u203a$/;

/**
 * A JSON Schema (2020-12) that every one of some values fits: members that are always there are required, formats and
 * enumerations stand where they are evident. What is secret in the record may be anything.
 */
export function inferredSchema(values: readonly Value[], name = ''): JsonSchema {
  const known = values.filter((value) => !(typeof value === 'string' && MASK.test(value)));
  if (known.length < values.length || known.length === 0) return {};
  const types = [...new Set(known.map(typeIn))].sort();
  // Whole numbers are numbers.
  const stated = types.includes('number') ? types.filter((type) => type !== 'integer') : types;
  return {
    type: stated.length === 1 ? stated[0] : stated,
    ...ofStrings(
      known.filter((value) => typeof value === 'string'),
      stated.length === 1 && OF_A_FEW.test(name),
    ),
    ...ofLists(known.filter(isList)),
    ...ofObjects(known.filter(isObject)),
  };
}

function typeIn(value: Value): string {
  if (value === null) return 'null';
  if (isNumber(value)) return /^-?\d+$/.test(numberText(value)) ? 'integer' : 'number';
  if (isList(value)) return 'array';
  return typeof value === 'object' ? 'object' : typeof value;
}

function ofStrings(strings: readonly string[], isOfAFew: boolean): JsonSchema {
  if (strings.length === 0) return {};
  const format = FORMATS.find(([, pattern]) => strings.every((text) => pattern.test(text)))?.[0];
  if (format !== undefined) return { format };
  const different = [...new Set(strings)];
  const isEnumeration =
    isOfAFew &&
    strings.length >= ENUMERATION.least &&
    different.length <= ENUMERATION.different &&
    different.every(
      (text) => text.length <= ENUMERATION.length && strings.filter((each) => each === text).length >= ENUMERATION.each,
    );
  return isEnumeration ? { enum: different.sort() } : {};
}

function ofLists(lists: readonly (readonly Value[])[]): JsonSchema {
  const items = lists.flat();
  return items.length === 0 ? {} : { items: inferredSchema(items) };
}

function ofObjects(objects: readonly Readonly<Record<string, Value>>[]): JsonSchema {
  const names = [...new Set(objects.flatMap((object) => Object.keys(object)))];
  if (names.length === 0) return {};
  const valuesOf = (name: string) => objects.flatMap((object) => (Object.hasOwn(object, name) ? [object[name]!] : []));
  if (names.every((name) => ID.test(name))) return { additionalProperties: inferredSchema(names.flatMap(valuesOf)) };
  const required = names.filter((name) => objects.every((object) => Object.hasOwn(object, name)));
  return {
    properties: Object.fromEntries(names.map((name) => [name, inferredSchema(valuesOf(name), name)])),
    ...(required.length > 0 ? { required } : {}),
  };
}
