import type { Step } from './model.ts';

/** What a step is called in its address: a call by its name, any other by its kind. */
export function nameOfStep(step: Step): string {
  return step.kind === 'call' || step.kind === 'repeat' ? step.name : step.kind;
}

/**
 * The address of a step, counted from 1: `3/watch-clearance`; `4.1/confirm` for the first step inside the fourth.
 * `inside` is what stands before the number: empty, `4.`, or `4.o` in an `otherwise`.
 */
export function addressOf(inside: string, index: number, step: Step): string {
  return `${inside}${index + 1}/${nameOfStep(step)}`;
}
