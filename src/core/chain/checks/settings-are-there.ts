import type { Endpoint } from '../../http/endpoint.ts';
import { nearest } from '../../diagnostics/suggest.ts';
import { eachNode } from '../walk.ts';
import type { Rule, RuleContext } from './rule.ts';

/** `setting.NAME` is one that every deployment of the api has: also those where the present run is not. */
export const settingsAreThere: Rule = (context) => ({
  expression(tree, source, { endpoint }) {
    if (!endpoint || !source.text.includes('setting')) return;
    eachNode(tree, (node) => {
      if (node.kind !== 'path' || node.start.kind !== 'name' || node.start.name !== 'setting') return;
      const selector = node.segments[0]?.selectors[0];
      const name = selector?.kind === 'name' ? selector.name : undefined;
      const lacking = name === undefined ? [] : endpointsWithout(context, endpoint, name);
      if (lacking.length === 0 || name === undefined) return;
      const names = lacking.map(({ deployment }) => deployment ?? 'the api');
      const message = `The setting "${name}" of ${endpoint.api} is missing at ${names.join(', ')}`;
      const near = nearest(name, Object.keys(endpoint.settings));
      const advice = near && near !== name ? `Did you mean "${near}"?` : 'Add it under settings of each.';
      context.reportIn(source, { code: 'setting-missing', range: node.range, message, advice });
    });
  },
});

function endpointsWithout({ project }: RuleContext, endpoint: Endpoint, name: string): readonly Endpoint[] {
  const api = project?.apis.find((each) => each.name === endpoint.api);
  return (api?.endpoints ?? []).filter(({ settings }) => !Object.hasOwn(settings, name));
}
