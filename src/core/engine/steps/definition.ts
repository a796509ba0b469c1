import type { RunContext } from '../context.ts';

/** How a step ended. `exit` is the status with which the run would end because of it. */
export type StepOutcome = Readonly<{ outcome: 'held' | 'failed' | 'cut'; exit: number; expects: number; held: number }>;

/** How a kind of step is run: one file, one entry in the list. The chain's folder has its other half. */
export type StepRunner<S> = (step: S, address: string, context: RunContext) => Promise<StepOutcome>;
