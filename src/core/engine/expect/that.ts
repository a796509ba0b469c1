import type { Seen } from '../../journal/records.ts';
import type { Problem } from '../../diagnostics/problem.ts';
import type { Code } from '../../diagnostics/catalogue.ts';
import { present } from '../../value/present.ts';
import type { Source } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import { isComparison, ungrouped, type BinaryNode, type Node } from '../../expression/model.ts';
import { secretIn } from '../../expression/secrecy.ts';
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
  if (outcome.problem) return { ...unmet(withReasons(outcome.problem, tree, judged)), seen };
  const offenders = offendersIn(tree, source, frame);
  if (outcome.value === undefined && !offenders)
    return { ...unmet(explainNothing(tree, source, judged)), foundNothing: true, seen };
  if (outcome.value === false || outcome.value === undefined)
    return { ...isFalse(tree, judging), seen, ...offendersSeen(offenders, judging) };
  const message = `An expectation must be true or false, not ${aType(outcome.value)}`;
  return { passed: false, code: 'not-a-condition', message, seen };
};

function unmet({ code, message, advice }: Readonly<{ code: Code; message: string; advice?: string }>) {
  return { passed: false as const, code, message, ...(advice ? { advice } : {}) };
}

/** What is false, and how the sides of it differ. */
function isFalse(tree: Node, { frame, context }: Judging) {
  const message = typesApart(tree, frame) ?? kindsApart(tree, frame, context);
  const apart = whereApart(tree, frame);
  const places = apart ? placesOf(apart) : {};
  return { passed: false as const, code: 'expectation-false' as const, ...present({ message }), ...places };
}

/** The items for which a condition over a list is false. */
function offendersSeen(offenders: ReturnType<typeof offendersIn>, judging: Judging) {
  if (!offenders) return {};
  const first = offenders.first.map(({ number, place, parts }) => ({ number, place, seen: seenOf(parts, judging) }));
  return { offenders: { ...offenders, first } };
}

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
  if (inner.kind === 'binary') return overNoneInSides(inner, source, frame);
  const list = listAskedAbout(inner);
  const items = list && evaluate(list, frame).value;
  if (!list || !isList(items) || items.length > 0) return [];
  const message = `${source.text.slice(...inner.range)} is true only because the array is empty`;
  const advice = 'If that is meant, expect it: length(...) == 0.';
  return [{ code: 'nothing-to-check', range: list.range, message, advice }];
}

/** Of `||` one side that holds by itself is enough. */
function overNoneInSides({ operator, left, right }: BinaryNode, source: Source, frame: Frame): readonly Problem[] {
  if (operator !== '&&' && operator !== '||') return [];
  const holding =
    operator === '&&' ? [left, right] : [left, right].filter((side) => evaluate(side, frame).value === true);
  const all = holding.map((side) => overNone(side, source, frame));
  return operator === '&&' || all.every((each) => each.length > 0) ? all.flat() : [];
}

/** The list of an `all(...)`, or of a `not(any(...))`. */
function listAskedAbout(node: Node): Node | undefined {
  const [call, name] = node.kind === 'not' ? [ungrouped(node.operand), 'any'] : [node, 'all'];
  return call.kind === 'call' && call.name === name ? call.args[0] : undefined;
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
