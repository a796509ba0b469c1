import type { Code } from '../core/diagnostics/catalogue.ts';
import type { Failure } from '../core/report/failure.ts';

/** What a user asked for cannot be done; told in one line with advice, exit status 2. */
export class CommandError extends Error {
  constructor(
    readonly code: Code,
    message: string,
    readonly advice?: string,
    /** The exit status: 2 of what was refused before anything was sent, 3 of a run that can go on. */
    readonly exit: 2 | 3 = 2,
    /** The call that failed on the way, shown before it. */
    readonly failure?: Failure,
  ) {
    super(message);
  }
}
