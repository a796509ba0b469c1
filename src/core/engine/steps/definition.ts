import type { StepFrame } from '../frame.ts';
import type { StepOutcome } from '../outcome.ts';
import type { EndStep } from './start.ts';

/**
 * How a kind of step is run: one file, one entry in the list. The chain's folder has its other half. `end` writes the end of
 * the step.
 */
export type StepRunner<S> = (step: S, context: StepFrame, end: EndStep) => Promise<StepOutcome>;
