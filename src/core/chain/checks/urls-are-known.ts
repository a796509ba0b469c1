import { originKey } from '../../http/message.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { CallStep } from '../model.ts';
import type { Rule, RuleContext } from './rule.ts';

/** A whole URL in a call is none of the project's own apis: those are named, so that their credentials and rate limit count. */
export const urlsAreKnown: Rule = (context) => ({
  call(step, { endpoint }) {
    const { line } = step.request;
    const [first] = line?.target.parts ?? [];
    if (!line || line.target.kind !== 'absolute' || first?.kind !== 'literal') return;
    const endpoints = (context.project?.apis ?? []).flatMap((api) => api.endpoints);
    const same = endpoints.filter((each) => literalOrigin(each) === originKey(first.text));
    const match =
      same.find(({ url }) => typeof url.pieces[0] === 'string' && first.text.startsWith(`${url.pieces[0]}/`)) ??
      same[0];
    if (match && match !== endpoint) report(context, step, match, endpoint);
  },
});

function report({ reportIn }: RuleContext, { request }: CallStep, found: Endpoint, own: Endpoint | undefined): void {
  const { source } = request.line!;
  const range = [request.line!.method.length + 1, source.text.length] as const;
  if (own && found.api === own.api) {
    const message = `This URL belongs to the deployment ${found.deployment ?? ''} of ${found.api}, and the run is at ${own.deployment ?? 'another'}`;
    const advice = `Write the path only, and choose the deployment with --at ${found.deployment ?? ''}.`;
    reportIn(source, { code: 'other-deployment', range, message, advice });
    return;
  }
  const message = `This URL belongs to the API ${found.api}, whose credentials and headers are not sent with a whole URL`;
  reportIn(source, { code: 'other-api', range, message, advice: `Write api: ${found.api} and the path only.` });
}

/** The origin of an endpoint whose URL has no placeholders before its path. */
function literalOrigin({ url }: Endpoint): string | undefined {
  const [first] = url.pieces;
  if (typeof first !== 'string' || !/^https?:\/\/[^/]+/.test(first)) return undefined;
  const isWhole = url.pieces.length === 1 || /^https?:\/\/[^/]+\//.test(first);
  return isWhole ? originKey(first) : undefined;
}
