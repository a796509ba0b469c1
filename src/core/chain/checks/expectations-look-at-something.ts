import { wholeOf } from '../../diagnostics/source.ts';
import type { Node } from '../../expression/model.ts';
import { namesRead } from '../../expression/names-read.ts';
import type { Names } from '../names.ts';
import { readsResponse } from '../reads-response.ts';
import type { Place } from '../place.ts';
import type { Expectation } from '../../http/expectation.ts';
import type { Expression } from '../../schema/leaves.ts';
import type { ValueTemplate } from '../../template/template.ts';
import type { Rule, RuleContext } from './rule.ts';

/** An expectation has something to look at: a response, or the value that it names; and something that it asks of it. */
export const expectationsLookAtSomething: Rule = (context) => ({
  expectation(expectation, place) {
    if (expectation.form === 'that') return looksElsewhere(expectation.expression, place, context);
    checkOf(expectation, place.response, context);
    checkExtent(expectation, context);
  },
});

type Judging = Exclude<Expectation, { form: 'that' }>;

/** A condition on a response that reads only what was known before. */
function looksElsewhere(
  { tree, source }: Expression,
  { response, step, names }: Place,
  { reportIn }: RuleContext,
): void {
  if (!response || step === undefined || !tree || readsResponse(tree) || !readsOnly(tree, names)) return;
  reportIn(source, {
    code: 'nothing-to-check',
    range: tree.range,
    message: 'This reads nothing of the response, so the response cannot fail it',
    advice: 'Read $, status or another part of the response, or write a step of its own: - expect: [...].',
  });
}

/** What is judged is named where there is no response, and only there. */
function checkOf({ form, of, source }: Judging, response: boolean, { reportIn }: RuleContext): void {
  if (response && of)
    reportIn(of.source, {
      code: 'unknown-key',
      range: wholeOf(of.source),
      message: 'of is for an expect step: in a call the body of the response is judged',
      advice: 'Remove it, or move the expectation into a step of its own: - expect: [...].',
    });
  if (!response && !of)
    reportIn(source, {
      code: 'key-missing',
      range: wholeOf(source),
      message: `${form} does not say which value it judges`,
      advice: `Add of: the name of a kept value.`,
    });
}

/** It asks for something: not everything is left out, and what is to be included is not nothing. */
function checkExtent(expectation: Judging, { reportIn }: RuleContext): void {
  const all = expectation.form === 'equals' ? expectation.except.find(({ tree }) => isWholeBody(tree)) : undefined;
  if (all)
    reportIn(all.source, {
      code: 'nothing-to-check',
      range: wholeOf(all.source),
      message: 'This leaves out all there is, so that nothing is compared',
      advice: 'Except less, or expect what must hold of the rest.',
    });
  if (expectation.form === 'includes' && isNothing(expectation.value))
    reportIn(expectation.source, {
      code: 'nothing-to-check',
      range: wholeOf(expectation.source),
      message: `includes of nothing is true of everything`,
      advice: 'Write what it must include.',
    });
}

function isNothing(value: ValueTemplate): boolean {
  if (value.kind === 'object') return value.members.length === 0;
  return value.kind === 'list' && value.items.length === 0;
}

function isWholeBody(tree: Node | undefined): boolean {
  return tree?.kind === 'path' && tree.start.kind === 'body' && tree.segments.length === 0;
}

/** Whether a condition reads names that are bound, and nothing else. What reads none is the same always, which is told elsewhere. */
function readsOnly(tree: Node, names: Names): boolean {
  const read = namesRead(tree);
  if (tree.kind === 'path' && names.get(read[0] ?? '')?.kind !== 'boolean') return false;
  return read.length > 0 && read.every((name) => names.has(name));
}
