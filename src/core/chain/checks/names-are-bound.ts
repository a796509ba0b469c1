import type { Source } from '../../diagnostics/source.ts';
import { findFunction } from '../../expression/functions/list.ts';
import type { CallNode, Node } from '../../expression/model.ts';
import type { CallStep } from '../model.ts';
import { eachNode } from '../walk.ts';
import type { Place } from '../place.ts';
import type { Rule, RuleContext } from './rule.ts';
import { checkName, noResponse } from './unbound-name.ts';

/** Every name that an expression reads is bound at that place, and `$`, `@` and response names stand where they mean something. */
export const namesAreBound: Rule = (context) => {
  let call: CallStep | undefined;
  return {
    call: (step) => void (call = step),
    expression(tree, source, place) {
      const own = call?.name === place.step ? call : undefined;
      eachNode(tree, (node, inside) => {
        if (node.kind === 'call') checkCall(context, source, place, node);
        if (node.kind !== 'path') return;
        const { start } = node;
        if (start.kind === 'body' && !place.response) noResponse(context, source, '$', node.range);
        if (start.kind === 'item' && !inside.item) noItem(context, source, node);
        if (start.kind !== 'name') return;
        const { name, range } = start;
        const missing = own && place.response && !place.names.has(name) ? MISSING[name]?.(own) : undefined;
        if (missing) context.reportIn(source, { code: 'unknown-name', range, ...missing });
        else checkName({ context, source, place, name, range, tree, node });
      });
    },
  };
};

/** What is wrong with response names that only some calls have. */
const MISSING: Readonly<Record<string, (call: CallStep) => Readonly<{ message: string; advice: string }> | undefined>> =
  {
    items: ({ paging }) =>
      paging?.items
        ? undefined
        : {
            message: '"items" is the array over all pages, and this call does not define it',
            advice: 'Add items under paging, with the path of the array in one page.',
          },
    page_count: ({ paging }) =>
      paging ? undefined : { message: '"page_count" counts pages, and this call has no paging', advice: 'Add paging.' },
    polls: ({ poll }) =>
      poll ? undefined : { message: '"polls" counts polls, and this call does not poll', advice: 'Add poll.' },
  };

/** Functions that read the response beside `$` mean nothing without one; `xpath` with a node needs none. */
function checkCall(context: RuleContext, source: Source, place: Place, { name, args, nameRange }: CallNode): void {
  const isOfResponse = findFunction(name)?.ofResponse === true && !(name === 'xpath' && args.length > 1);
  if (isOfResponse && !place.response) noResponse(context, source, `${name}()`, nameRange);
}

function noItem({ reportIn }: RuleContext, source: Source, node: Node): void {
  const message = '@ is the item of a filter, and there is no filter here';
  reportIn(source, {
    code: 'does-not-parse',
    range: [node.range[0], node.range[0] + 1],
    message,
    advice: 'Write $ for the response body.',
  });
}
