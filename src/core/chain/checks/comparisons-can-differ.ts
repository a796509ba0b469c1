import { evaluate } from '../../expression/evaluate.ts';
import { frameOf } from '../../expression/frame.ts';
import { findFunction } from '../../expression/functions/list.ts';
import { isComparison, partsOf, ungrouped, type BinaryNode, type Node, type PathNode } from '../../expression/model.ts';
import type { Range } from '../../diagnostics/problem.ts';
import { isSingular } from '../../path/model.ts';
import { articled } from '../../value/show.ts';
import type { ValueType } from '../../value/value.ts';
import { typeOfTree } from '../value-types.ts';
import { eachNode } from '../walk.ts';
import type { Rule } from './rule.ts';

/** A condition can come out either way: it is not made of constants alone, and does not compare two kinds. */
export const comparisonsCanDiffer: Rule = ({ reportIn }) => ({
  expression(tree, source, { names, response, role }) {
    const constant =
      role === 'condition' && isConstant(tree)
        ? evaluate(
            tree,
            frameOf(undefined, () => undefined),
          )
        : undefined;
    if (constant && typeof constant.value === 'boolean' && ungrouped(tree).kind !== 'literal') {
      const message = `This is always ${constant.value}`;
      const advice = 'Compare a part of the response or a name.';
      reportIn(source, { code: 'always-same', range: tree.range, message, advice });
      return;
    }
    eachNode(tree, (node, inside) => {
      if (node.kind !== 'binary' || !isComparison(node.operator) || inside.filter) return;
      const [left, right] = [typeOfTree(node.left, names, response), typeOfTree(node.right, names, response)];
      const compared = arrayCompared(node, [left, right], source.text);
      if (compared) return reportIn(source, { code: 'array-compared', range: node.range, ...compared });
      if (node.operator === 'in' || inside.item) return;
      if (left === undefined || right === undefined || left === right || mayMeet(left, right)) return;
      const text = (part: Node) => source.text.slice(...part.range);
      const outcome = node.operator === '!=' ? 'true' : 'false';
      const message = `This is always ${outcome}: ${text(node.left)} is ${articled(left)}, ${text(node.right)} is ${articled(right)}`;
      reportIn(source, {
        code: 'always-same',
        range: node.range,
        message,
        advice: adviceFor(left, right, text(node.left), text(node.right)),
      });
    });
  },
});

/** What is wrong where a path that gives a list stands beside one value: it never equals it, whatever is in the list. */
function arrayCompared(
  { left, right, operator }: BinaryNode,
  [leftType, rightType]: readonly (ValueType | undefined)[],
  text: string,
): Readonly<{ message: string; advice: string }> | undefined {
  const isOne = (type: ValueType | undefined) => type !== undefined && type !== 'array' && type !== 'node';
  const isMany = (node: Node) => ungrouped(node).kind === 'path' && !isSingular((ungrouped(node) as PathNode).segments);
  const many =
    isMany(left) && (operator === 'in' || isOne(rightType))
      ? left
      : isMany(right) && operator !== 'in' && isOne(leftType)
        ? right
        : undefined;
  if (!many) return undefined;
  const path = ungrouped(many) as PathNode;
  const written = (range: Range) => text.slice(...range);
  const at = path.segments.findIndex((segment) => !isSingular([segment]));
  const split = path.segments[at]!;
  const isPlain = !split.descends && split.selectors.every(({ kind }) => kind === 'wildcard');
  // What stands behind `[*]` is of each item; a filter or a slice belongs to the list.
  const end = isPlain ? split.range[0] : split.range[1];
  const list = text.slice(path.range[0], end);
  const item = `@${text.slice(split.range[1], path.range[1])}`;
  const sides = [left, right].map((node) => (node === many ? item : written(node.range)));
  const condition = `${sides[0]} ${operator} ${sides[1]}`;
  return {
    message: `${written(path.range)} gives an array, and is compared with one value`,
    advice: `Write all(${list}, ${condition}), or any(${list}, ${condition}).`,
  };
}

/** Kinds of which one stands for the other in comparisons; null says that something is not there. */
function mayMeet(left: ValueType, right: ValueType): boolean {
  return left === 'null' || right === 'null' || left === 'node' || right === 'node';
}

function adviceFor(left: ValueType, right: ValueType, leftText: string, rightText: string): string {
  const types = [left, right];
  const [text, other] = left === 'string' ? [leftText, rightText] : [rightText, leftText];
  if (types.includes('string') && types.includes('number')) {
    return /^['"]-?\d+(\.\d+)?['"]$/.test(text)
      ? `Write ${text.slice(1, -1)} without quotes.`
      : `Write number(${text}), or string(${other}).`;
  }
  if (types.includes('string') && types.includes('date-time')) return `Write date_time(${text}).`;
  if (types.includes('number') && types.includes('duration')) {
    return `A duration has a unit, as in 500ms. To get a number, divide it: ${left === 'duration' ? leftText : rightText} / 1s.`;
  }
  return 'Values of different types are never equal; nothing is converted.';
}

/** Whether nothing in an expression depends on the response, a name, an item, the clock or chance. */
function isConstant(node: Node): boolean {
  if (node.kind === 'path')
    return node.start.kind === 'value' && isConstant(node.start.node) && partsOf(node).every(isConstant);
  if (node.kind === 'call' && (findFunction(node.name)?.needsHost ?? true)) return false;
  return partsOf(node).every(isConstant);
}
