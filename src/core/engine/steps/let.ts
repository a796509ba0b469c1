import type { LetStep } from '../../chain/model.ts';
import { bindAll } from '../bind.ts';
import { plainFrame } from '../frames.ts';
import type { StepRunner } from './definition.ts';

/** Computes variables, each from those before it; finding nothing fails the step. */
export const runLet: StepRunner<LetStep> = async ({ names }, context, end) =>
  end(bindAll(names, plainFrame(context), context));
