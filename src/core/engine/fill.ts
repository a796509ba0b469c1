import type { ProblemRecord } from '../journal/records.ts';
import { FillFault } from '../template/fill.ts';
import { problemRecord } from './places.ts';

/** What filling gave, or what is wrong with a placeholder, at its place. */
export type Filled<T> = Readonly<{ value: T }> | Readonly<{ problem: ProblemRecord }>;

/** Fills a template; what is wrong with a placeholder becomes data. */
export function catchFillFault<T>(fill: () => T): Filled<T> {
  try {
    return { value: fill() };
  } catch (error) {
    return { problem: problemOfFault(error) };
  }
}

/** The same for work in which templates are filled on the way. */
export async function catchFillFaultDuring<T>(work: () => Promise<T>): Promise<Filled<T>> {
  try {
    return { value: await work() };
  } catch (error) {
    return { problem: problemOfFault(error) };
  }
}

/** What is no fault of a template is thrown on. */
function problemOfFault(error: unknown): ProblemRecord {
  if (error instanceof FillFault) return problemRecord(error.diagnostic);
  throw error;
}
