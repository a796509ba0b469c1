import type { Diagnostic } from '../diagnostics/source.ts';
import { FillFault } from '../template/fill.ts';

/** Fills a template; what is wrong with a placeholder becomes data. */
export function filling<T>(fill: () => T): Readonly<{ value: T }> | Readonly<{ diagnostic: Diagnostic }> {
  try {
    return { value: fill() };
  } catch (error) {
    if (error instanceof FillFault) return { diagnostic: error.diagnostic };
    throw error;
  }
}
