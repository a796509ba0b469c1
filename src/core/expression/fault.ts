import type { Problem, Range } from '../diagnostics/problem.ts';
import type { PathNode } from './model.ts';
import type { Code } from '../diagnostics/catalogue.ts';

/** Ends an evaluation with an error that has a place; caught by `evaluate`, never seen outside of this folder. */
export class EvaluationFault extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message);
  }
}

/** Thrown by a member that is worked out when it is read, and cannot be; the expression that reads it is to blame. */
export class ValueUnavailable extends Error {
  constructor(readonly problem: Omit<Problem, 'range'>) {
    super(problem.message);
  }
}

export function fault(code: Code, range: Range, message: string, advice?: string): never {
  throw new EvaluationFault({ code, range, message, ...(advice === undefined ? {} : { advice }) });
}

/** How a path began, in words, for messages: `$`, `@`, a name, or what stands before its first segment. */
export function startOf(path: PathNode, text: string): string {
  switch (path.start.kind) {
    case 'body':
      return '$';
    case 'item':
      return '@';
    case 'name':
      return path.start.name;
    case 'value':
      return text.slice(...path.start.node.range);
  }
}
