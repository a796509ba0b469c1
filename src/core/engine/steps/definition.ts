import type { RunContext } from '../context.ts';
import type { StepHost } from '../host.ts';

/** How a step ended. `exit` is the status with which the run would end because of it. */
export type StepOutcome = Readonly<{
  outcome: 'passed' | 'failed' | 'skipped' | 'cut';
  exit: number;
  calls: number;
  expects: number;
  passed: number;
  /** It ends its chain, whether it failed or not. */
  stops?: true;
  /** The steps behind it run although it failed. */
  goesOn?: true;
  /** The call up to which the run goes has been made in it. */
  reached?: true;
  /** It was ended early because the loop around it stopped. */
  halted?: true;
}>;

/** How a list of steps ended. */
export type StepsOutcome = Omit<StepOutcome, 'outcome'>;

/** How a kind of step is run: one file, one entry in the list. The chain's folder has its other half. */
export type StepRunner<S> = (
  step: S,
  address: string,
  context: RunContext & { host: StepHost },
) => Promise<StepOutcome>;

/** Of a step that is not done because the run only tidies up: nothing behind it is done either. */
export const notReached: StepOutcome = { outcome: 'passed', exit: 0, calls: 0, expects: 0, passed: 0, reached: true };

/** The outcome of a step that sends nothing. */
export function plainOutcome(outcome: StepOutcome['outcome']): StepOutcome {
  return { outcome, exit: outcome === 'failed' ? 1 : outcome === 'cut' ? 130 : 0, calls: 0, expects: 0, passed: 0 };
}
