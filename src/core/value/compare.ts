/* eslint-disable eqeqeq -- `==` compares numbers with big integers by value, and both sides are numeric where it stands */
import { Bytes, DateTime, Duration, isList, isObject, Mask, numberOf, type Maybe, type Value } from './value.ts';

/**
 * Deep equality without conversion, RFC 9535 section 2.3.5.2.2: numbers by mathematical value, texts by Unicode
 * scalar values, objects whatever the order of their members. Iterative over neither depth nor breadth beyond what
 * the JSON reader let in (512 levels), so recursion is safe.
 */
// eslint-disable-next-line complexity -- a branch for each type, the frequent ones first
export function equalValues(left: Value, right: Value): boolean {
  if (left === right) return true;
  if (typeof left !== 'object' && typeof right !== 'object') {
    // Number and bigint: `==` compares them mathematically, and neither converts from text here.
    return typeof left !== typeof right && isNumeric(left) && isNumeric(right) && left == right;
  }
  const a = numberOf(left);
  if (a !== undefined) {
    const b = numberOf(right);
    return b !== undefined && a == b;
  }
  if (isList(left)) {
    return isList(right) && left.length === right.length && left.every((item, i) => equalValues(item, right[i]!));
  }
  if (isObject(left)) return isObject(right) && equalMembers(left, right);
  if (left instanceof Duration) return right instanceof Duration && left.milliseconds === right.milliseconds;
  if (left instanceof DateTime) return right instanceof DateTime && left.epochMilliseconds === right.epochMilliseconds;
  if (left instanceof Bytes) return right instanceof Bytes && equalBytes(left.data, right.data);
  if (left instanceof Mask) return right instanceof Mask && left.name === right.name;
  return false;
}

function isNumeric(value: Value): value is number | bigint {
  return typeof value === 'number' || typeof value === 'bigint';
}

function equalMembers(left: Readonly<Record<string, Value>>, right: Readonly<Record<string, Value>>): boolean {
  const names = Object.keys(left);
  return (
    names.length === Object.keys(right).length &&
    names.every((name) => Object.hasOwn(right, name) && equalValues(left[name]!, right[name]!))
  );
}

function equalBytes(left: Uint8Array, right: Uint8Array): boolean {
  return left.length === right.length && left.every((byte, i) => byte === right[i]);
}

/**
 * The order of two values of one ordered kind (numbers, texts by scalar value, durations, date-times): negative,
 * zero or positive; `undefined` for any other pair, for which `<` and its like do not hold.
 */
// eslint-disable-next-line complexity -- a branch for each type, the frequent ones first
export function orderOf(left: Maybe, right: Maybe): number | undefined {
  if (typeof left === 'number' && typeof right === 'number') return left - right || 0;
  if (typeof left === 'string' && typeof right === 'string') return orderOfTexts(left, right);
  const a = numberOf(left);
  const b = numberOf(right);
  if (a !== undefined && b !== undefined) return a < b ? -1 : a > b ? 1 : 0;
  if (left instanceof Duration && right instanceof Duration) return left.milliseconds - right.milliseconds;
  if (left instanceof DateTime && right instanceof DateTime) return left.epochMilliseconds - right.epochMilliseconds;
  return undefined;
}

/** JavaScript compares UTF-16 code units, which differs from scalar values only where surrogates meet U+E000 and up. */
function orderOfTexts(left: string, right: string): number {
  const end = Math.min(left.length, right.length);
  for (let i = 0; i < end; i++) {
    const a = left.charCodeAt(i);
    const b = right.charCodeAt(i);
    if (a !== b) {
      const aIsSurrogate = a >= 0xd800 && a <= 0xdfff;
      const bIsSurrogate = b >= 0xd800 && b <= 0xdfff;
      return aIsSurrogate === bIsSurrogate ? a - b : aIsSurrogate ? 1 : -1;
    }
  }
  return left.length - right.length;
}
