import type { Json } from '../value/value.ts';

/** Whether a value that was read is what a type says. The compiler asks for every member of a type, and for its kind. */
export type Check<T> = (value: unknown) => value is T;

export const text = <T extends string>(value: unknown): value is T => typeof value === 'string';
export const number = <T extends number>(value: unknown): value is T => Number.isFinite(value);
/** Milliseconds since 1970 that are a date. */
export const instant = (value: unknown): value is number => number(value) && Math.abs(value) <= 8.64e15;
export const flag = <T extends boolean>(value: unknown): value is T => typeof value === 'boolean';
export const json = (value: unknown): value is Json => value !== undefined;

export function maybe<T>(check: Check<T>): Check<T | undefined> {
  return (value): value is T | undefined => value === undefined || check(value);
}

export function orNull<T>(check: Check<T>): Check<T | null> {
  return (value): value is T | null => value === null || check(value);
}

export function list<T>(check: Check<T>): Check<T[]> {
  return (value): value is T[] => Array.isArray(value) && value.every(check);
}

export function record<T>(check: Check<T>): Check<Record<string, T>> {
  return (value): value is Record<string, T> => isMapping(value) && Object.values(value).every(check);
}

export function members<T>(checks: { readonly [K in keyof T]-?: Check<T[K]> }): Check<T> {
  const all = Object.entries(checks) as [keyof T & string, Check<unknown>][];
  return (value): value is T => {
    if (!isMapping(value)) return false;
    for (const [name, check] of all) if (!check(value[name])) return false;
    return true;
  };
}

export function isMapping(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
