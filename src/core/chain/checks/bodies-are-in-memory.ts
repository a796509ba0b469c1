import type { PathNode } from '../../expression/model.ts';
import type { CallStep } from '../model.ts';
import { eachNode } from '../walk.ts';
import type { Rule } from './rule.ts';

/** What `$` of a saved body has. */
const SAVED = ['path', 'size', 'type', 'sha256'];

/** A body that goes into a file is not read as a value too. */
export const bodiesAreInMemory: Rule = ({ chain, reportIn }) => {
  let saving: CallStep | undefined;
  return {
    call(step) {
      saving = step.save ? step : undefined;
    },
    expression(tree, source, place) {
      if (!saving || !place.response || place.step !== saving.name || source.file !== chain.file) return;
      eachNode(tree, (node) => {
        if (node.kind !== 'path') return;
        const isRaw = node.start.kind === 'name' && node.start.name === 'raw';
        if (!isRaw && (node.start.kind !== 'body' || readsSaved(node))) return;
        reportIn(source, {
          code: 'body-not-in-memory',
          range: node.range,
          message: `The response body of ${place.step} is saved to a file and not kept in memory`,
          advice: `$ then has only ${SAVED.map((name) => `$.${name}`).join(', ')}. To read the body, remove save.`,
        });
      });
    },
  };
};

function readsSaved({ segments }: PathNode): boolean {
  const [first] = segments;
  if (!first) return true;
  const [selector] = first.selectors;
  return selector?.kind === 'name' && SAVED.includes(selector.name);
}
