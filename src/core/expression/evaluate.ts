import type { Problem } from '../diagnostics/problem.ts';
import type { Located } from '../path/evaluate.ts';
import type { Maybe } from '../value/value.ts';
import { compile, compileParts } from './compile.ts';
import { EvaluationFault, ValueUnavailable } from './fault.ts';
import type { Evaluate, Frame } from './frame.ts';
import type { Node, PathNode } from './model.ts';

/** What an evaluation outputs: a value or nothing, or an error with its place in the expression. */
export type Outcome =
  Readonly<{ value: Maybe; problem?: undefined }> | Readonly<{ value?: undefined; problem: Problem }>;

const compiled = new WeakMap<Node, Evaluate>();

/** The function of a tree, made at its first use. */
function compiledOf(node: Node): Evaluate {
  let evaluate = compiled.get(node);
  if (!evaluate) compiled.set(node, (evaluate = compile(node)));
  return evaluate;
}

/** Evaluates an expression. Never throws for what the expression or the data can bring about. */
export function evaluate(node: Node, frame: Frame): Outcome {
  const outcome = guarded(() => compiledOf(node)(frame), node);
  if (frame.notes) {
    frame.host.noted?.(node, frame.notes);
    frame.notes = undefined;
  }
  return outcome;
}

/** Turns what ends an evaluation into data. */
export function guarded(compute: () => Maybe, { range }: Pick<Node, 'range'>): Outcome {
  try {
    return { value: compute() };
  } catch (error) {
    if (error instanceof EvaluationFault) return { problem: error.problem };
    if (error instanceof ValueUnavailable) return { problem: { ...error.problem, range } };
    // A text longer than any can be, a date beyond the calendar, values nested too deeply to go through.
    if (!(error instanceof RangeError)) throw error;
    return { problem: { code: 'over-limit', range, message: `This is beyond what can be computed: ${error.message}` } };
  }
}

/** The nodes that a path finds, with their places; none when its start is nothing. */
export function locate(node: PathNode, frame: Frame): readonly Located[] {
  const { root, path, within } = compileParts(node);
  const from = root(frame);
  return from === undefined ? [] : (within(frame, () => path.locate(from, frame)) ?? []);
}
