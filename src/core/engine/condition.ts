import type { ProblemRecord } from '../journal/records.ts';
import { diagnosticIn } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import type { Expression } from '../schema/leaves.ts';
import { aType } from '../value/show.ts';
import type { Value } from '../value/value.ts';
import { explainNothing, withReasons } from './explain.ts';
import { problemRecord } from './places.ts';

/** Whether a `when` or `if` holds; nothing is an error there, and so is what is no condition. */
export function decide(
  expression: Expression,
  frame: Frame,
): Readonly<{ holds: boolean }> | Readonly<{ problem: ProblemRecord }> {
  const needed = valueNeeded(expression, frame, 'Write x ?? ... with a value for that case, or exists(x).');
  if ('problem' in needed) return needed;
  if (typeof needed.value === 'boolean') return { holds: needed.value };
  const { source } = expression;
  const message = `A condition must be true or false, not ${aType(needed.value)}`;
  return {
    problem: problemRecord(diagnosticIn(source, { code: 'not-a-condition', range: [0, source.text.length], message })),
  };
}

/** The value of an expression where nothing is an error, or that error. */
export function valueNeeded(
  { source, tree }: Expression,
  frame: Frame,
  otherwise: string,
): Readonly<{ value: Value }> | Readonly<{ problem: ProblemRecord }> {
  const outcome = evaluate(tree!, frame);
  if (outcome.problem)
    return { problem: problemRecord(diagnosticIn(source, withReasons(outcome.problem, tree!, frame))) };
  if (outcome.value !== undefined) return { value: outcome.value };
  const { code, message, advice, part } = explainNothing(tree!, source, frame);
  const range = part?.node.range ?? ([0, source.text.length] as const);
  const problem = {
    code,
    range,
    message,
    advice: [advice, otherwise].filter(Boolean).join(' '),
  };
  return { problem: problemRecord(diagnosticIn(source, problem)) };
}
