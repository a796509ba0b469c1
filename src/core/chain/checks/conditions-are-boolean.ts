import type { Source } from '../../diagnostics/source.ts';
import { ungrouped, type Node } from '../../expression/model.ts';
import { isCondition } from '../../expression/typing.ts';
import { eachNode } from '../walk.ts';
import type { Place } from '../place.ts';
import type { Rule, RuleContext } from './rule.ts';

/** A condition is true or false by its form: a path or name alone only when it is known to be boolean. */
export const conditionsAreBoolean: Rule = (context) => ({
  expression(tree, source, place) {
    if (place.role === 'condition') checkCondition(context, tree, source, place);
    eachNode(tree, (node, inside) => {
      if (inside.filter) return;
      if (node.kind === 'not') checkCondition(context, node.operand, source, place);
      if (node.kind !== 'binary' || (node.operator !== '&&' && node.operator !== '||')) return;
      checkCondition(context, node.left, source, place);
      checkCondition(context, node.right, source, place);
    });
  },
});

function checkCondition({ reportIn }: RuleContext, node: Node, source: Source, place: Place): void {
  const inner = ungrouped(node);
  if (isCondition(inner)) return;
  if (inner.kind === 'path' && inner.start.kind === 'name' && inner.segments.length === 0) {
    const info = place.names.get(inner.start.name);
    // An unknown name is told by its own rule.
    if (info?.kind === 'boolean' || (!info && !place.response)) return;
  }
  if (inner.kind === 'literal' && typeof inner.value === 'boolean') {
    // A step that never runs is told by a rule of its own.
    if (place.key === 'when') return;
    const advice = 'State what must be true, or remove the line.';
    reportIn(source, { code: 'always-same', range: inner.range, message: `This is always ${inner.value}`, advice });
    return;
  }
  const text = source.text.slice(...inner.range);
  const advice =
    inner.kind === 'path' ? `Write exists(${text}), or ${text} == true.` : `Compare it with a value: ${text} == ...`;
  reportIn(source, {
    code: 'not-a-condition',
    range: inner.range,
    message: `${text} by itself is not a condition`,
    advice,
  });
}
