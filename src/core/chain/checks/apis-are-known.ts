import { wholeOf, type Source } from '../../diagnostics/source.ts';
import { nearest } from '../../diagnostics/suggest.ts';
import type { CallStep } from '../model.ts';
import type { Rule, RuleContext } from './rule.ts';

/** The api of every call is one of the project's, and it is clear which. */
export const apisAreKnown: Rule = (context) => {
  if (context.chain.api) checkApi(context, context.chain.api);
  return {
    call(step) {
      if (step.api) checkApi(context, step.api);
      else if (!context.chain.api) checkSaid(context, step);
    },
  };
};

function checkApi({ project, reportIn }: RuleContext, api: Source): void {
  const names = (project?.apis ?? []).map(({ name }) => name);
  if (!project || names.includes(api.text)) return;
  const near = nearest(api.text, names);
  const advice = near ? `Did you mean "${near}"?` : `Its APIs are ${names.join(', ')}.`;
  reportIn(api, { code: 'unknown-api', range: wholeOf(api), message: `The project has no API "${api.text}"`, advice });
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
