import { chosen, endpointOfUrl, urlOf } from '../endpoints.ts';
import type { RequestLine } from '../../template/request-line.ts';
import type { Rule, RuleContext } from './rule.ts';

/** A whole URL below that of an api is a request of that api: no other may be named beside it, and no other deployment chosen. */
export const urlsAreKnown: Rule = (context) => ({
  call({ api, request: { line } }, { endpoint }) {
    if (line?.target.kind !== 'absolute') return;
    const { reportIn, project, at } = context;
    const found = endpointOfUrl(urlOf(line), chosen(project, at), endpoint)?.endpoint;
    if (!found) return checkDeployment(line, context);
    if (found === endpoint || !api) return;
    const message = `This URL belongs to the API ${found.api}, and the call says api: ${api.text}`;
    const advice = `Remove api from the call, or write api: ${found.api} and the path only.`;
    reportIn(line.source, { code: 'other-api', range: placeOf(line), message, advice });
  },
});

/** A URL of another deployment of an api than the one at which the run is. */
function checkDeployment(line: RequestLine, { reportIn, project, at }: RuleContext): void {
  const all = project?.apis.flatMap(({ endpoints }) => endpoints) ?? [];
  const elsewhere = endpointOfUrl(urlOf(line), all)?.endpoint;
  if (elsewhere?.deployment === undefined) return;
  const { api, deployment } = elsewhere;
  const isAt = chosen(project, at).find((each) => each.api === api)?.deployment;
  if (isAt === undefined) return;
  const message = `This URL belongs to the deployment ${deployment} of ${api}, and the run is at ${isAt}`;
  const advice = `Write the path only, and choose the deployment with --at ${deployment}.`;
  reportIn(line.source, { code: 'other-deployment', range: placeOf(line), message, advice });
}

function placeOf({
  method,
  source,
}: Readonly<{ method: string; source: { text: string } }>): readonly [number, number] {
  return [method.length + 1, source.text.length];
}
