import { moreSevereExit } from './exit.ts';

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

/** What steps add up to: the worst exit status, and how many calls and expectations there were. */
export type Totals = Pick<StepOutcome, 'exit' | 'calls' | 'expects' | 'passed'>;

export const NO_TOTALS: Totals = Object.freeze({ exit: 0, calls: 0, expects: 0, passed: 0 });

/** Adds the totals of one more step to those so far. */
export function added(total: Totals, { exit, calls, expects, passed }: Totals): Totals {
  return {
    exit: moreSevereExit(total.exit, exit),
    calls: total.calls + calls,
    expects: total.expects + expects,
    passed: total.passed + passed,
  };
}

/** Of a step that is not done because the run only cleans up: nothing behind it is done either. */
export const notReached: StepOutcome = { outcome: 'passed', ...NO_TOTALS, reached: true };

/** The outcome of a step that sends nothing. */
export function plainOutcome(outcome: StepOutcome['outcome']): StepOutcome {
  return { outcome, ...NO_TOTALS, exit: outcome === 'failed' ? 1 : outcome === 'cut' ? 130 : 0 };
}

/** What became of steps inside another, by the exit status and whether the loop around them stopped. */
export function outcomeOf({ exit, halted }: StepsOutcome): 'passed' | 'failed' | 'cut' {
  if (exit === 130 || (halted && exit === 0)) return 'cut';
  return exit === 0 ? 'passed' : 'failed';
}
