import type { Problem } from '../../diagnostics/problem.ts';
import type { Source } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import { isComparison, ungrouped, type BinaryNode, type Node } from '../../expression/model.ts';
import { secretIn } from '../../expression/secrecy.ts';
import type { Seen } from '../../journal/events.ts';
import { toStored } from '../../journal/stored.ts';
import { aType, showValue } from '../../value/show.ts';
import { kindOfText } from '../../value/text-kind.ts';
import { differences, type Difference } from '../../value/difference.ts';
import { isList, isObject, typeOf, Mask, type Maybe } from '../../value/value.ts';
import { placesOf } from './places.ts';
import { readsOf } from '../frames.ts';
import type { StepFrame } from '../frame.ts';
import { explainNothing, partsSeen, withReasons, type Part } from '../explain.ts';
import { offendersIn } from '../offenders.ts';
import type { Judge, Judging } from './definition.ts';

/** An expression that must be true. */
export const judgeThat: Judge<'that'> = ({ expression }, judging) => {
  const { source } = expression;
  const tree = expression.tree!;
  const { frame } = judging;
  const judged = { ...frame, judges: true };
  const outcome = evaluate(tree, judged);
  if (outcome.value === true) {
    const notes = [...overNone(tree, source, frame), ...typesDiffer(tree, frame)];
    if (notes.length > 0) judging.context.host.noted(tree, notes);
    return { passed: true };
  }
  const seen = seenOf(partsSeen(tree, source, judged), judging);
  if (outcome.problem) {
    const { code, message, advice } = withReasons(outcome.problem, tree, judged);
    return { passed: false, code, message, ...(advice ? { advice } : {}), seen };
  }
  const offenders = offendersIn(tree, source, frame);
  if (outcome.value === undefined && !offenders) {
    const { code, message, advice } = explainNothing(tree, source, judged);
    return { passed: false, code, foundNothing: true, message, ...(advice ? { advice } : {}), seen };
  }
  if (outcome.value === false || outcome.value === undefined) {
    const message = typesApart(tree, frame) ?? kindsApart(tree, frame, judging.context);
    const first = offenders?.first.map(({ number, place, parts }) => ({ number, place, seen: seenOf(parts, judging) }));
    const items = offenders && first ? { offenders: { ...offenders, first } } : {};
    const apart = whereApart(tree, frame);
    return {
      passed: false,
      code: 'expectation-false',
      ...(message === undefined ? {} : { message }),
      seen,
      ...items,
      ...(apart ? placesOf(apart) : {}),
    };
  }
  const message = `An expectation must be true or false, not ${aType(outcome.value)}`;
  return { passed: false, code: 'not-a-condition', message, seen };
};

function sidesOf({ left, right }: BinaryNode, frame: Frame): readonly [left: Maybe, right: Maybe] {
  return [evaluate(left, frame).value, evaluate(right, frame).value];
}

/** Where two objects or lists differ that were to be equal: the right side says what is wanted. */
function whereApart(tree: Node, frame: Frame): readonly Difference[] | undefined {
  const inner = ungrouped(tree);
  if (inner.kind !== 'binary' || inner.operator !== '==') return undefined;
  const [found, wanted] = sidesOf(inner, frame);
  const areAlike = (isList(found) && isList(wanted)) || (isObject(found) && isObject(wanted));
  return areAlike ? differences(wanted!, found!, { atLeast: false }) : undefined;
}

/** What to say of a comparison whose sides are of two kinds, and so never equal: `'12' is a text, 12 is a number`. */
function typesApart(tree: Node, frame: Frame): string | undefined {
  const inner = ungrouped(tree);
  if (inner.kind !== 'binary' || !isComparison(inner.operator) || inner.operator === 'in') return undefined;
  const [left, right] = sidesOf(inner, frame);
  if (left === undefined || right === undefined || typeOf(left) === typeOf(right)) return undefined;
  return `${showValue(left, 40)} is ${aType(left)}, ${showValue(right, 40)} is ${aType(right)}`;
}

/** Of two texts that were to be equal and of which one is secret: of what kind each is, which shows nothing of their values. */
function kindsApart(tree: Node, frame: Frame, context: StepFrame): string | undefined {
  const inner = ungrouped(tree);
  if (inner.kind !== 'binary' || inner.operator !== '==') return undefined;
  const [left, right] = sidesOf(inner, frame);
  if (typeof left !== 'string' || typeof right !== 'string') return undefined;
  const isSecret = [inner.left, inner.right].some((side) => secretIn(side, context.secretNames) !== undefined);
  if (!isSecret) return undefined;
  const [one, other] = [kindOfText(left), kindOfText(right)];
  return one === other
    ? `Both sides are ${one}, and differ: it is another secret, or other bytes went into it`
    : `The left side is ${one}, the right side ${other}`;
}

/** The parts of an expectation that hold only because the list of an `all(...)`, or of a `not(any(...))`, has no items. */
function overNone(tree: Node, source: Source, frame: Frame): readonly Problem[] {
  const inner = ungrouped(tree);
  if (inner.kind === 'binary' && inner.operator === '&&')
    return [...overNone(inner.left, source, frame), ...overNone(inner.right, source, frame)];
  if (inner.kind === 'binary' && inner.operator === '||') {
    const holding = [inner.left, inner.right].filter((side) => evaluate(side, frame).value === true);
    const all = holding.map((side) => overNone(side, source, frame));
    return all.every((each) => each.length > 0) ? all.flat() : [];
  }
  const negated = inner.kind === 'not' ? ungrouped(inner.operand) : undefined;
  const call = negated?.kind === 'call' && negated.name === 'any' ? negated : inner;
  if (call.kind !== 'call' || call.name !== (negated ? 'any' : 'all')) return [];
  const list = evaluate(call.args[0]!, frame).value;
  if (!isList(list) || list.length > 0) return [];
  const advice = 'If that is meant, expect it: length(...) == 0.';
  return [
    {
      code: 'nothing-to-check',
      range: call.args[0]!.range,
      message: `${source.text.slice(...inner.range)} is true only because the array is empty`,
      advice,
    },
  ];
}

/** An `!=` that holds only because its sides are of two types; null is of any. */
function typesDiffer(tree: Node, frame: Frame): readonly Problem[] {
  const inner = ungrouped(tree);
  if (inner.kind === 'binary' && inner.operator === '&&')
    return [...typesDiffer(inner.left, frame), ...typesDiffer(inner.right, frame)];
  if (inner.kind !== 'binary' || inner.operator !== '!=') return [];
  const [left, right] = sidesOf(inner, frame);
  if (left === undefined || right === undefined || left === null || right === null) return [];
  if (typeOf(left) === typeOf(right)) return [];
  const message = `${showValue(left, 40)} is ${aType(left)} and ${showValue(right, 40)} is ${aType(right)}`;
  return [
    { code: 'types-differ', range: inner.range, message, advice: 'Compare values of one type: number(x), string(x).' },
  ];
}

function seenOf(parts: readonly Part[], { exchange, context }: Judging): Seen[] {
  return parts.map(({ text, value, node }) => {
    const reads = readsOf(node, context.scope);
    return {
      text,
      value: toStored(
        maskedIfSecret(value, node, context),
        exchange === undefined ? undefined : { exchange, expr: text },
      ),
      reads,
    };
  });
}

function maskedIfSecret(value: Maybe, tree: Node, { secretNames }: StepFrame): Maybe {
  const name = value === undefined ? undefined : secretIn(tree, secretNames)?.name;
  return name === undefined ? value : new Mask(name);
}
