import type { ProblemRecord } from '../journal/records.ts';
import { sourceOf } from '../chain/steps/inside.ts';
import type { Step } from '../chain/model.ts';
import { RunUnderWay } from '../journal/run-under-way.ts';
import { problemAt } from './places.ts';

/** What the system refuses: an error of Node that names the call. */
type SystemError = Partial<Readonly<{ code: string; syscall: string; path: string }>>;

/**
 * What went wrong in a step although nobody foresaw it, as its failure, with the exit status of the run: a file that the
 * system refuses is an ordinary failure, anything else a mistake of ours.
 */
export function faultOf(error: unknown, step: Step): Readonly<{ problem: ProblemRecord; exit: number }> {
  if (error instanceof RunUnderWay) throw error;
  const source = sourceOf(step);
  const { code, syscall, path } = error as SystemError;
  if (code !== undefined && syscall !== undefined) {
    const message = `The system refused to ${syscall}${path === undefined ? '' : ` ${path}`} (${code})`;
    return {
      problem: source ? problemAt(source, 'not-writable', message) : { code: 'not-writable', message },
      exit: 1,
    };
  }
  const message = error instanceof Error ? error.message : String(error);
  const advice = 'This is a bug in batharon. Please report it with the chain and the step.';
  return {
    problem: { ...(source ? problemAt(source, 'over-limit', message) : {}), code: 'internal', message, advice },
    exit: 4,
  };
}
