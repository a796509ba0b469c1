import { isList, isObject, Mask, type Maybe, type Value } from '../value/value.ts';
import { textOf, type NoText } from '../value/text.ts';
import { encodeReserved, encodeUnreserved } from '../value/percent.ts';

/** The operators of RFC 6570, section 2.2, and what each does (appendix A). */
export const OPERATORS = {
  '': { first: '', separator: ',', named: false, ifEmpty: '', reserved: false },
  '+': { first: '', separator: ',', named: false, ifEmpty: '', reserved: true },
  '#': { first: '#', separator: ',', named: false, ifEmpty: '', reserved: true },
  '.': { first: '.', separator: '.', named: false, ifEmpty: '', reserved: false },
  '/': { first: '/', separator: '/', named: false, ifEmpty: '', reserved: false },
  ';': { first: ';', separator: ';', named: true, ifEmpty: '', reserved: false },
  '?': { first: '?', separator: '&', named: true, ifEmpty: '=', reserved: false },
  '&': { first: '&', separator: '&', named: true, ifEmpty: '=', reserved: false },
} as const;
export type UriOperator = keyof typeof OPERATORS;

/** One variable of an expression: its name as it is sent, how many characters of it, and whether it is exploded. */
export type Variable = Readonly<{ name: string; prefix?: number; explode: boolean }>;

/** A value has no form in a URL. */
export class NoUriForm extends Error {
  constructor(readonly reason: NoText) {
    super(`cannot be part of a URL`);
  }
}

/**
 * Expands one expression (RFC 6570 section 3.2.1). Nothing, null and empty lists count as undefined and are left out.
 * Throws `NoUriForm` for values that have no text.
 */
export function expand(operator: UriOperator, values: readonly (readonly [Variable, Maybe])[]): string {
  const rules = OPERATORS[operator];
  const parts: string[] = [];
  for (const [variable, value] of values) if (isDefined(value)) parts.push(expandVariable(operator, variable, value));
  return parts.length === 0 ? '' : rules.first + parts.join(rules.separator);
}

/** Whether RFC 6570 takes a value as defined (section 2.3). */
function isDefined(value: Maybe): value is Exclude<Value, null> {
  if (value === undefined || value === null) return false;
  if (isList(value)) return value.length > 0;
  return !isObject(value) || Object.keys(value).length > 0;
}

function expandVariable(operator: UriOperator, variable: Variable, value: Value): string {
  const { named, separator, ifEmpty, reserved } = OPERATORS[operator];
  const encode = (item: Value) => encodeValue(item, reserved);
  const name = encodeReserved(variable.name);
  if (isList(value)) {
    const items = value.filter((item) => item !== null).map(encode);
    if (!variable.explode) return named ? pair(name, items.join(','), ifEmpty) : items.join(',');
    return (named ? items.map((item) => pair(name, item, ifEmpty)) : items).join(separator);
  }
  if (isObject(value)) {
    const members = Object.entries(value).filter(([, member]) => member !== null);
    if (variable.explode) {
      return members.map(([key, member]) => pair(encode(key), encode(member), named ? ifEmpty : '=')).join(separator);
    }
    const flat = members.flatMap(([key, member]) => [encode(key), encode(member)]).join(',');
    return named ? pair(name, flat, ifEmpty) : flat;
  }
  const text = variable.prefix === undefined ? encode(value) : encode(firstCharacters(value, variable.prefix));
  return named ? pair(name, text, ifEmpty) : text;
}

function pair(name: string, value: string, ifEmpty: string): string {
  return value === '' ? name + ifEmpty : `${name}=${value}`;
}

function firstCharacters(value: Value, count: number): Value {
  const text = textOf(value);
  return typeof text === 'string' && !(value instanceof Mask) ? [...text].slice(0, count).join('') : value;
}

/** A value inside a URL, percent-encoded; a mask stands as it is, since it is never sent. */
export function encodeValue(value: Value, reserved = false): string {
  if (value instanceof Mask) return value.toString();
  const text = textOf(value);
  if (typeof text !== 'string') throw new NoUriForm(text);
  return reserved ? encodeReserved(text) : encodeUnreserved(text);
}
