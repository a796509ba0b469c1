import { aType } from '../value/show.ts';
import { equalValues, orderOf } from '../value/compare.ts';
import { shrunk } from '../value/numbers.ts';
import { DateTime, Duration, isList, typeOf, numberOf, type Maybe, type Value } from '../value/value.ts';
import { assertNever } from '../diagnostics/problem.ts';
import type { Arithmetic, Comparison } from './model.ts';

/** An operator cannot take its operands: data, so that a filter can treat it as nothing and an `expect` as an error. */
export class WrongOperands {
  constructor(
    readonly message: string,
    readonly advice?: string,
  ) {}
}

/**
 * Compares two values, RFC 9535 section 2.3.5.2.2, extended by `in`. Inside filters a side may be nothing, and two
 * nothings are equal there; outside, the caller has ruled nothing out.
 */
export function compare(operator: Comparison, left: Maybe, right: Maybe): boolean {
  switch (operator) {
    case '==':
      return same(left, right);
    case '!=':
      return !same(left, right);
    case '<':
      return (orderOf(left, right) ?? 1) < 0;
    case '>':
      return (orderOf(left, right) ?? -1) > 0;
    case '<=':
      return same(left, right) || (orderOf(left, right) ?? 1) < 0;
    case '>=':
      return same(left, right) || (orderOf(left, right) ?? -1) > 0;
    case 'in':
      return isList(right) && left !== undefined && right.some((item) => equalValues(item, left));
    default:
      return assertNever(operator);
  }
}

function same(left: Maybe, right: Maybe): boolean {
  return left === right || (left !== undefined && right !== undefined && equalValues(left, right));
}

/** Computes with two values; the kinds of both decide, and nothing is converted. */
export function calculate(operator: Arithmetic, left: Value, right: Value): Value | WrongOperands {
  const a = numberOf(left);
  const b = numberOf(right);
  if (a !== undefined && b !== undefined) return onNumbers(operator, a, b);
  switch (operator) {
    case '+':
      return add(left, right);
    case '-':
      return subtract(left, right);
    case '*':
      if (left instanceof Duration && b !== undefined) return new Duration(left.milliseconds * Number(b));
      if (right instanceof Duration && a !== undefined) return new Duration(right.milliseconds * Number(a));
      break;
    case '/':
      return divide(left, right, b);
    case '%':
      break;
  }
  return wrongTypes(operator, left, right);
}

/** The value with its sign turned round: a number or a duration. */
export function negate(value: Value): Value | WrongOperands {
  const number = numberOf(value);
  if (number !== undefined) return typeof number === 'bigint' ? shrunk(-number) : -number;
  if (value instanceof Duration) return new Duration(-value.milliseconds);
  return new WrongOperands(`"-" takes a number or a duration, not ${aType(value)}`);
}

function onNumbers(operator: Arithmetic, a: number | bigint, b: number | bigint): Value | WrongOperands {
  if ((operator === '/' || operator === '%') && Number(b) === 0) {
    return new WrongOperands('Division by zero', 'Test the divisor first: if(d == 0, ..., n / d).');
  }
  const exact = exactly(operator, a, b);
  if (exact !== undefined) return exact;
  const x = Number(a);
  const y = Number(b);
  const result =
    operator === '+' ? x + y : operator === '-' ? x - y : operator === '*' ? x * y : operator === '/' ? x / y : x % y;
  if (Number.isFinite(result)) return result;
  return new WrongOperands(`The result of ${a} ${operator} ${b} is out of range`);
}

/** Integer arithmetic beyond ±(2^53-1) stays exact; `undefined` when doubles are right, or all that there is. */
// eslint-disable-next-line complexity -- a case for each operator and pair of kinds
function exactly(operator: Arithmetic, a: number | bigint, b: number | bigint): number | bigint | undefined {
  if (typeof a === 'number' && typeof b === 'number') {
    if (operator === '/' || operator === '%' || !Number.isInteger(a) || !Number.isInteger(b)) return undefined;
    const result = operator === '+' ? a + b : operator === '-' ? a - b : a * b;
    if (Number.isSafeInteger(result)) return result;
  }
  if (!isWhole(a) || !isWhole(b)) return undefined;
  const x = BigInt(a);
  const y = BigInt(b);
  switch (operator) {
    case '+':
      return shrunk(x + y);
    case '-':
      return shrunk(x - y);
    case '*':
      return shrunk(x * y);
    case '%':
      return shrunk(x % y);
    case '/':
      return x % y === 0n ? shrunk(x / y) : undefined;
  }
}

function isWhole(value: number | bigint): boolean {
  return typeof value === 'bigint' || Number.isSafeInteger(value);
}

function add(left: Value, right: Value): Value | WrongOperands {
  if (typeof left === 'string' && typeof right === 'string') return left + right;
  if (left instanceof Duration && right instanceof Duration)
    return new Duration(left.milliseconds + right.milliseconds);
  if (left instanceof DateTime && right instanceof Duration) return later(left, right.milliseconds);
  return wrongTypes('+', left, right);
}

function subtract(left: Value, right: Value): Value | WrongOperands {
  if (left instanceof Duration && right instanceof Duration)
    return new Duration(left.milliseconds - right.milliseconds);
  if (left instanceof DateTime && right instanceof Duration) return later(left, -right.milliseconds);
  if (left instanceof DateTime && right instanceof DateTime) {
    return new Duration(left.epochMilliseconds - right.epochMilliseconds);
  }
  return wrongTypes('-', left, right);
}

function divide(left: Value, right: Value, divisor: number | bigint | undefined): Value | WrongOperands {
  if (!(left instanceof Duration)) return wrongTypes('/', left, right);
  const by = right instanceof Duration ? right.milliseconds : divisor;
  if (by === undefined) return wrongTypes('/', left, right);
  if (Number(by) === 0) return new WrongOperands('Division by zero');
  const result = left.milliseconds / Number(by);
  return right instanceof Duration ? result : new Duration(result);
}

function later(from: DateTime, milliseconds: number): DateTime {
  return new DateTime(Math.round(from.epochMilliseconds + milliseconds));
}

function wrongTypes(operator: Arithmetic, left: Value, right: Value): WrongOperands {
  const types = [typeOf(left), typeOf(right)];
  const textMet =
    operator === '+' && types.includes('string') && (types.includes('number') || types.includes('boolean'));
  const advice = textMet
    ? 'Values are not converted implicitly: write string(x) to join strings, or number(x) to add.'
    : types.includes('null')
      ? 'Write (x ?? 0) for a value that may be null.'
      : undefined;
  return new WrongOperands(`"${operator}" cannot combine ${aType(left)} and ${aType(right)}`, advice);
}
