import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import { isComparison, ungrouped, type Node } from '../../expression/model.ts';
import { secretIn } from '../../expression/secrecy.ts';
import type { Seen } from '../../journal/events.ts';
import { toStored } from '../../journal/stored.ts';
import { aType, showValue } from '../../value/show.ts';
import { isList, typeOf, Mask, type Maybe } from '../../value/value.ts';
import { readsOf } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { explainNothing, partsSeen, type Part } from '../explain.ts';
import { offendersIn } from '../offenders.ts';
import type { Judge, Judging } from './definition.ts';

/** An expression that must be true. */
export const judgeThat: Judge<'that'> = ({ expression }, judging) => {
  const { source } = expression;
  const tree = expression.tree!;
  const { frame } = judging;
  const outcome = evaluate(tree, frame);
  if (outcome.value === true) return { passed: true, ...overNone(tree, frame) };
  const seen = seenOf(partsSeen(tree, source, frame), judging);
  if (outcome.problem) {
    const { code, message, advice } = outcome.problem;
    return { passed: false, code, message, ...(advice ? { advice } : {}), seen };
  }
  const offenders = offendersIn(tree, source, frame);
  if (outcome.value === undefined && !offenders) {
    const { message, advice } = explainNothing(tree, source, frame);
    return { passed: false, code: 'found-nothing', foundNothing: true, message, ...(advice ? { advice } : {}), seen };
  }
  if (outcome.value === false || outcome.value === undefined) {
    const message = typesApart(tree, frame);
    const first = offenders?.first.map(({ number, place, parts }) => ({ number, place, seen: seenOf(parts, judging) }));
    const items = offenders && first ? { offenders: { ...offenders, first } } : {};
    return { passed: false, code: 'expectation-false', ...(message === undefined ? {} : { message }), seen, ...items };
  }
  const message = `An expectation must be true or false, not ${aType(outcome.value)}`;
  return { passed: false, code: 'not-a-condition', message, seen };
};

/** What to say of a comparison whose sides are of two kinds, and so never equal: `'12' is a text, 12 is a number`. */
function typesApart(tree: Node, frame: Frame): string | undefined {
  const inner = ungrouped(tree);
  if (inner.kind !== 'binary' || !isComparison(inner.operator) || inner.operator === 'in') return undefined;
  const [left, right] = [evaluate(inner.left, frame).value, evaluate(inner.right, frame).value];
  if (left === undefined || right === undefined || typeOf(left) === typeOf(right)) return undefined;
  return `${showValue(left, 40)} is ${aType(left)}, ${showValue(right, 40)} is ${aType(right)}`;
}

/** Whether an expectation says something only of the items of a list that has none. */
function overNone(tree: Node, frame: Frame): { overNone?: true } {
  const inner = ungrouped(tree);
  if (inner.kind !== 'call' || inner.name !== 'all') return {};
  const list = evaluate(inner.args[0]!, frame).value;
  return isList(list) && list.length === 0 ? { overNone: true } : {};
}

function seenOf(parts: readonly Part[], { exchange, context }: Judging): Seen[] {
  return parts.map(({ text, value, node }) => {
    const reads = readsOf(node, context.scope);
    return { text, value: toStored(maskedIfSecret(value, node, context), { exchange, expr: text }), reads };
  });
}

function maskedIfSecret(value: Maybe, tree: Node, { secretNames }: StepFrame): Maybe {
  const name = value === undefined ? undefined : secretIn(tree, secretNames)?.name;
  return name === undefined ? value : new Mask(name);
}
