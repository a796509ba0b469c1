import { wholeOf, type Source } from '../../diagnostics/source.ts';
import { ungrouped, type Node } from '../../expression/model.ts';
import { printExpression } from '../../expression/print.ts';
import { equalValues } from '../../value/compare.ts';
import type { Value } from '../../value/value.ts';
import type { Rule } from './rule.ts';

/** Expectations of one call do not contradict each other: what must be equal to one value is not another. */
export const expectationsAgree: Rule = ({ reportIn }) => ({
  call({ expect }) {
    const said = new Map<string, Readonly<{ values: readonly Value[]; source: Source }>>();
    for (const each of expect) {
      if (each.form !== 'that' || !each.expression.tree) continue;
      const demand = demandOf(each.expression.tree);
      if (!demand) continue;
      const { source } = each.expression;
      const before = said.get(demand.subject);
      const both = before && demand.values.filter((value) => before.values.some((other) => equalValues(value, other)));
      if (before && both?.length === 0) {
        const message = `This contradicts ${before.source.text.trim()}`;
        reportIn(source, {
          code: 'contradictory-expectations',
          range: wholeOf(source),
          message,
          advice: `Remove one of them, or write ${demand.subject} in [...].`,
        });
      } else {
        said.set(demand.subject, { values: both ?? demand.values, source });
      }
    }
  },
});

type Demand = Readonly<{ subject: string; values: readonly Value[] }>;

/** What an expectation allows one path or name to be, when it says so in literals. */
function demandOf(tree: Node): Demand | undefined {
  const node = ungrouped(tree);
  if (node.kind !== 'binary') return undefined;
  const [left, right] = [ungrouped(node.left), ungrouped(node.right)];
  if (node.operator === '==') {
    if (left.kind === 'path' && right.kind === 'literal')
      return { subject: printExpression(left), values: [right.value] };
    if (right.kind === 'path' && left.kind === 'literal')
      return { subject: printExpression(right), values: [left.value] };
  }
  if (node.operator !== 'in' || left.kind !== 'path' || right.kind !== 'list') return undefined;
  const values = right.items.map(ungrouped).flatMap((item) => (item.kind === 'literal' ? [item.value] : []));
  return values.length === right.items.length ? { subject: printExpression(left), values } : undefined;
}
