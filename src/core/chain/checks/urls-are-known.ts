import { chosen, endpointOfUrl, urlOf } from '../endpoints.ts';
import type { Rule } from './rule.ts';

/** A whole URL below that of an api is a request of that api: no other may be named beside it, and no other deployment chosen. */
export const urlsAreKnown: Rule = (context) => ({
  call({ api, request }, { endpoint }) {
    const { line } = request;
    if (line?.target.kind !== 'absolute') return;
    const { reportIn, project, at } = context;
    const url = urlOf(line);
    const found = endpointOfUrl(url, chosen(project, at), endpoint)?.endpoint;
    if (found && found !== endpoint && api) {
      const message = `This URL belongs to the API ${found.api}, and the call says api: ${api.text}`;
      const advice = `Remove api from the call, or write api: ${found.api} and the path only.`;
      reportIn(line.source, { code: 'other-api', range: placeOf(line), message, advice });
    }
    if (found) return;
    const elsewhere = endpointOfUrl(
      url,
      (project?.apis ?? []).flatMap(({ endpoints }) => endpoints),
    )?.endpoint;
    if (elsewhere?.deployment === undefined) return;
    const { api: name, deployment } = elsewhere;
    const isAt = chosen(project, at).find((each) => each.api === name)?.deployment;
    if (isAt === undefined) return;
    const message = `This URL belongs to the deployment ${deployment} of ${name}, and the run is at ${isAt}`;
    const advice = `Write the path only, and choose the deployment with --at ${deployment}.`;
    reportIn(line.source, { code: 'other-deployment', range: placeOf(line), message, advice });
  },
});

function placeOf({
  method,
  source,
}: Readonly<{ method: string; source: { text: string } }>): readonly [number, number] {
  return [method.length + 1, source.text.length];
}
