import type { Code } from '../../diagnostics/catalogue.ts';

/** Thrown for rows that a file cannot take, and for a file that is left as it is because it cannot be read whole. */
export class RowFault extends Error {
  constructor(
    readonly code: Code,
    message: string,
    readonly advice?: string,
  ) {
    super(message);
  }
}
