import { ungrouped, type Node } from '../../expression/model.ts';
import { isCondition } from '../../expression/typing.ts';
import { eachNode } from '../walk.ts';
import type { Place } from '../place.ts';
import type { Rule } from './rule.ts';

/** Response names that every response has. */
const ALWAYS_THERE: ReadonlySet<string> = new Set([
  'status',
  'url',
  'took',
  'size',
  'tries',
  'headers',
  'cookies',
  'raw',
]);

/** Left of `??` stands something that may be nothing or null. */
export const fallbacksAreNeeded: Rule = ({ reportIn }) => ({
  expression(tree, source, place) {
    eachNode(tree, (node, inside) => {
      if (node.kind !== 'binary' || node.operator !== '??' || inside.filter) return;
      if (!isAlwaysThere(ungrouped(node.left), place)) return;
      const left = source.text.slice(...node.left.range);
      const message = `${left} always has a value, so the right side of ?? is never used`;
      reportIn(source, {
        code: 'needless-fallback',
        range: node.range,
        message,
        advice: `Write ${left} without the fallback.`,
        fix: { range: node.range, text: left },
      });
    });
  },
});

function isAlwaysThere(node: Node, { names, response }: Place): boolean {
  if (node.kind === 'literal') return node.value !== null;
  if (node.kind === 'list' || isCondition(node)) return node.kind === 'list';
  if (node.kind !== 'path' || node.start.kind !== 'name' || node.segments.length > 0) return false;
  const { name } = node.start;
  if (response && ALWAYS_THERE.has(name)) return true;
  const info = names.get(name);
  return info?.by === 'an input' && !info.optional && info.kind !== undefined;
}
