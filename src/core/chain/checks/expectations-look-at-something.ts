import { wholeOf } from '../../diagnostics/source.ts';
import type { Node } from '../../expression/model.ts';
import { namesRead } from '../../expression/names-read.ts';
import type { Names } from '../names.ts';
import { readsResponse } from '../reads-response.ts';
import type { Rule } from './rule.ts';

/** An expectation has something to look at: a response, or the value that it names; and something that it asks of it. */
export const expectationsLookAtSomething: Rule = ({ reportIn }) => ({
  expectation(expectation, { response, step, names }) {
    if (expectation.form === 'that') {
      const { tree, source } = expectation.expression;
      const isOther = tree && !readsResponse(tree) && readsOnly(tree, names);
      if (response && step !== undefined && isOther)
        reportIn(source, {
          code: 'nothing-to-check',
          range: tree.range,
          message: 'This reads nothing of the response, so the response cannot fail it',
          advice: 'Read $, status or another part of the response, or write a step of its own: - expect: [...].',
        });
      return;
    }
    const { form, of, source } = expectation;
    const at = { range: wholeOf(source) };
    if (response && of)
      reportIn(of.source, {
        code: 'unknown-key',
        range: wholeOf(of.source),
        message: 'of is for an expect step: in a call the body of the response is judged',
        advice: 'Remove it, or move the expectation into a step of its own: - expect: [...].',
      });
    if (!response && !of)
      reportIn(source, {
        ...at,
        code: 'key-missing',
        message: `${form} does not say which value it judges`,
        advice: `Add of: the name of a kept value.`,
      });
    const all = form === 'equals' ? expectation.except.find(({ tree }) => isWholeBody(tree)) : undefined;
    if (all)
      reportIn(all.source, {
        code: 'nothing-to-check',
        range: wholeOf(all.source),
        message: 'This leaves out all there is, so that nothing is compared',
        advice: 'Except less, or expect what must hold of the rest.',
      });
    const value = form === 'includes' ? expectation.value : undefined;
    const isEmpty =
      (value?.kind === 'object' && value.members.length === 0) || (value?.kind === 'list' && value.items.length === 0);
    if (isEmpty)
      reportIn(source, {
        ...at,
        code: 'nothing-to-check',
        message: `includes of nothing is true of everything`,
        advice: 'Write what it must include.',
      });
  },
});

function isWholeBody(tree: Node | undefined): boolean {
  return tree?.kind === 'path' && tree.start.kind === 'body' && tree.segments.length === 0;
}

/** Whether a condition reads names that are bound, and nothing else. What reads none is the same always, which is told elsewhere. */
function readsOnly(tree: Node, names: Names): boolean {
  const read = namesRead(tree);
  if (tree.kind === 'path' && names.get(read[0] ?? '')?.kind !== 'boolean') return false;
  return read.length > 0 && read.every((name) => names.has(name));
}
