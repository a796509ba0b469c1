import { ExactNumber, type Value } from './value.ts';

const SAFE = BigInt(Number.MAX_SAFE_INTEGER);

/**
 * A number as it was written, in JSON's form: a plain double when JSON's shortest form gives the same text back, an
 * exact integer beyond ±(2^53-1), else a number that carries its text. `undefined` beyond double range.
 */
export function readNumber(text: string): number | ExactNumber | bigint | undefined {
  const double = Number(text);
  if (!Number.isFinite(double)) return undefined;
  const isShortest = String(double) === text;
  if (isShortest && Number.isSafeInteger(double)) return double;
  if (/^-?\d+$/.test(text)) {
    const big = BigInt(text);
    if (big > SAFE || big < -SAFE) return big;
  }
  return isShortest ? double : new ExactNumber(double, text);
}

const NUMBER = /^-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?$/;
const INTEGER = /^-?(?:0|[1-9]\d*)$/;

/** The number that a whole text is in JSON's form, with its source text; `undefined` when it is none. */
export function parseNumber(text: string): ReturnType<typeof readNumber> {
  return NUMBER.test(text) ? readNumber(text) : undefined;
}

/** The same for whole numbers alone. */
export function parseInteger(text: string): ReturnType<typeof readNumber> {
  return INTEGER.test(text) ? readNumber(text) : undefined;
}

/** A computed integer: a double when it fits ±(2^53-1), else a big integer. */
export function shrunk(big: bigint): number | bigint {
  return big <= SAFE && big >= -SAFE ? Number(big) : big;
}

/** The text of a number as it is sent: its source text if it has one, else JSON's shortest form. */
export function numberText(value: number | bigint | ExactNumber): string {
  if (value instanceof ExactNumber) return value.text;
  return typeof value === 'bigint' ? value.toString() : shortest(value);
}

function shortest(value: number): string {
  return Object.is(value, -0) ? '0' : String(value);
}

export function isNumber(value: Value): value is number | bigint | ExactNumber {
  return typeof value === 'number' || typeof value === 'bigint' || value instanceof ExactNumber;
}
