import { wholeOf, type Source } from '../../diagnostics/source.ts';
import { nearest } from '../../diagnostics/suggest.ts';
import type { Node } from '../../expression/model.ts';
import type { CallStep } from '../model.ts';
import { eachNode } from '../walk.ts';
import type { Rule, RuleContext } from './rule.ts';

/** The api of every call, and every one that a marked value may go to, is one of the project's, and it is clear which. */
export const apisAreKnown: Rule = (context) => {
  if (context.chain.api) checkApi(context, context.chain.api.text, context.chain.api);
  return {
    call(step) {
      if (step.api) checkApi(context, step.api.text, step.api);
      else if (!context.chain.api) checkSaid(context, step);
    },
    expression: (tree, source) => eachNode(tree, (node) => checkAllowed(node, source, context)),
  };
};

/** `secret(x, 'office')` says by its text where the value may go. */
function checkAllowed(node: Node, source: Source, context: RuleContext): void {
  const api = node.kind === 'call' && node.name === 'secret' ? node.args[1] : undefined;
  if (!api) return;
  const { range } = api;
  if (api.kind === 'literal' && typeof api.value === 'string') return checkApi(context, api.value, source, range);
  const message = 'secret() takes the name of an API as it is written, in quotes';
  context.reportIn(source, { code: 'wrong-argument', range, message, advice: "Write secret(x, 'NAME')." });
}

function checkApi({ project, reportIn }: RuleContext, name: string, source: Source, range = wholeOf(source)): void {
  const names = (project?.apis ?? []).map((api) => api.name);
  if (!project || names.includes(name)) return;
  const near = nearest(name, names);
  const advice = near ? `Did you mean "${near}"?` : `Its APIs are ${names.join(', ')}.`;
  reportIn(source, { code: 'unknown-api', range, message: `The project has no API "${name}"`, advice });
}

function checkSaid({ project, reportIn }: RuleContext, step: CallStep): void {
  const { line } = step.request;
  const count = project?.apis.length ?? 0;
  if (!line || line.target.kind === 'absolute' || count === 1) return;
  const names = (project?.apis ?? []).map(({ name }) => name).join(', ');
  const message =
    count === 0
      ? 'The project has no API to send this to'
      : `The project has several APIs (${names}), and none is specified`;
  reportIn(line.source, {
    code: 'api-not-specified',
    range: wholeOf(line.source),
    message,
    advice: 'Add api to the chain or the call, or write the whole URL.',
  });
}
