import type { IfStep } from '../../chain/model.ts';
import { decide } from '../condition.ts';
import { plainFrame } from '../context.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Runs the steps of one arm; those inside `otherwise` are numbered `4.o1`. */
export const runIf: StepRunner<IfStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const decided = decide(step.condition, plainFrame(context));
  if ('problem' in decided) return { ...end({ problem: decided.problem }), stops: true };
  const number = address.slice(0, address.indexOf('/'));
  const branch = decided.holds ? 'steps' : 'otherwise';
  const text = step.condition.source.text.trim();
  context.recorder.record({ type: 'opened', step: address, key: 'if', kind: 'if', branch, text });
  const steps = decided.holds ? step.steps : step.otherwise;
  const inner = await context.runSteps(steps, decided.holds ? `${number}.` : `${number}.o`, context);
  const isCut = inner.exit === 130 || (inner.halted && inner.exit === 0);
  const { outcome } = end({ outcome: isCut ? 'cut' : inner.exit === 0 ? 'passed' : 'failed', why: branch });
  // A branch has gone on or stopped inside already.
  return { ...inner, outcome, goesOn: true };
};
