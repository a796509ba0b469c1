/**
 * The values that expressions compute with.
 *
 * JSON values are plain JavaScript values. What JSON has no word for extends `NonJsonValue`, so that one `instanceof`
 * tells it from an object of a response. Nothing (a path that found nothing, a name that was not bound) is not a
 * value: it is `undefined`, which no JSON text can hold.
 */
export type Value = null | boolean | string | number | bigint | NonJsonValue | readonly Value[] | ObjectValue;

/** What JSON has a word for, as plain data. */
export type Json = null | boolean | number | string | Json[] | { [name: string]: Json };

/** An object of a response, a file or a literal. Only its own members exist; `__proto__` is an ordinary name. */
export type ObjectValue = { readonly [name: string]: Value };

/** A value, or nothing. */
export type Maybe = Value | undefined;

export abstract class NonJsonValue {
  abstract readonly type: ValueType;
}

/**
 * A number whose source text differs from JSON's shortest form (`1.10`, `1e2`, 17 digits and more).
 * The text is passed on unchanged; arithmetic and comparison use `number`.
 */
export class ExactNumber extends NonJsonValue {
  readonly type = 'number';
  constructor(
    readonly number: number | bigint,
    readonly text: string,
  ) {
    super();
  }
}

/** A length of time in milliseconds, exact to a microsecond. */
export class Duration extends NonJsonValue {
  readonly type = 'duration';
  constructor(readonly milliseconds: number) {
    super();
  }
}

/** An instant, in milliseconds since 1970-01-01T00:00Z. */
export class DateTime extends NonJsonValue {
  readonly type = 'date-time';
  /** Throws `RangeError` for an instant beyond those that a calendar has (ECMA-262 section 21.4.1.1). */
  constructor(readonly epochMilliseconds: number) {
    super();
    if (!(Math.abs(epochMilliseconds) <= MAX_EPOCH_MS)) throw new RangeError('no date-time is so far away');
  }
}

const MAX_EPOCH_MS = 8.64e15;

/** Content that was not decoded. */
export class Bytes extends NonJsonValue {
  readonly type = 'bytes';
  constructor(readonly data: Uint8Array) {
    super();
  }
}

/** Content too long to hold, such as a file that is sent: it can be digested, piece by piece, and no more. */
export class LongBytes extends NonJsonValue {
  readonly type = 'bytes';
  constructor(
    readonly pieces: () => Iterable<Uint8Array>,
    readonly size: number,
  ) {
    super();
  }
}

/** A list too long to hold, such as a table of a million rows: it can be gone over, piece by piece, and no more. */
export class SpilledList extends NonJsonValue {
  readonly type = 'array';
  constructor(
    readonly pieces: () => AsyncIterable<readonly Value[]>,
    readonly length: number,
    /** The file beside the journal in which it stands, a line for each item. */
    readonly file: Readonly<{ file: string; size: number; sha256: string; masked?: true }>,
  ) {
    super();
  }
}

/** What a loop can go over. */
export type Items = readonly Value[] | SpilledList;

/** A value with members that are not plain ones: the fields of a header, which know neither case nor `_` from `-`. */
export abstract class Members extends NonJsonValue {
  override readonly type = 'object';
  abstract member(name: string): Maybe;
  abstract toObject(): ObjectValue;
}

/** Stands for a secret wherever a record is made instead of a request. It is written as `‹NAME›`, never encoded. */
export class Mask extends NonJsonValue {
  readonly type = 'string';
  constructor(readonly name: string) {
    super();
  }
  override toString(): string {
    return `‹${this.name}›`;
  }
}

export type ValueType =
  | 'null'
  | 'boolean'
  | 'number'
  | 'string'
  | 'array'
  | 'object'
  | 'duration'
  | 'date-time'
  | 'bytes'
  | 'node'
  | 'nothing';

/** The kind of a value as messages and `type_of` name it. */
export function typeOf(value: Maybe): ValueType {
  if (value === undefined) return 'nothing';
  if (value === null) return 'null';
  if (typeof value === 'string') return 'string';
  if (typeof value === 'number' || typeof value === 'bigint') return 'number';
  if (typeof value === 'boolean') return 'boolean';
  if (value instanceof NonJsonValue) return value.type;
  return Array.isArray(value) ? 'array' : 'object';
}

export function isList(value: Maybe): value is readonly Value[] {
  return Array.isArray(value);
}

/** The items of a list in the order of the list, in pieces. */
export function piecesOf(items: Items): AsyncIterable<readonly Value[]> | Iterable<readonly Value[]> {
  return items instanceof SpilledList ? items.pieces() : [items];
}

export function isObject(value: Maybe): value is ObjectValue {
  return typeof value === 'object' && value !== null && !Array.isArray(value) && !(value instanceof NonJsonValue);
}

/** The number to compute with, or `undefined` when the value is not a number. */
export function numberOf(value: Maybe): number | bigint | undefined {
  if (typeof value === 'number' || typeof value === 'bigint') return value;
  return value instanceof ExactNumber ? value.number : undefined;
}

/** Sets an own member, whatever its name: plain assignment to `__proto__` would change the prototype. */
export function defineMember(target: Record<string, Value>, name: string, value: Value): void {
  if (name === '__proto__') {
    Object.defineProperty(target, name, { value, writable: true, enumerable: true, configurable: true });
  } else {
    target[name] = value;
  }
}

/** What stands in a value where member names and indexes lead, or nothing. */
export function valueAt(value: Maybe, keys: readonly (string | number)[]): Maybe {
  let at = value;
  for (const key of keys) at = typeof key === 'number' ? (isList(at) ? at[key] : undefined) : memberOf(at, key);
  return at;
}

/** The own member of an object, or nothing. */
export function memberOf(value: Maybe, name: string): Maybe {
  return isObject(value) && Object.hasOwn(value, name) ? value[name] : undefined;
}
