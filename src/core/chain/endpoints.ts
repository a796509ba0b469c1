import { endpointAt, type At } from './endpoint-at.ts';
import { shownUrl } from '../http/shown-request.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { isHttpUrl, originKey, splitUrl } from '../http/message.ts';
import type { RequestLine } from '../template/request-line.ts';
import type { CallStep, Chain } from './model.ts';
import { type Project } from './project-file.ts';

/** Where a call of a chain goes; without a call, the chain's default api: the only one of the project, or the one it names. */
export type EndpointOf = (chain: Pick<Chain, 'api'>, call?: CallStep) => Endpoint | undefined;

/** The endpoints of a project where a run is, each worked out once. */
export function endpointsOf(project: Project | undefined, at: At): EndpointOf {
  const named = new Map<string | undefined, Endpoint | undefined>();
  const byName = (name: string | undefined) => {
    if (!named.has(name)) named.set(name, endpointNamed(project, name, at));
    return named.get(name);
  };
  const byUrl = new WeakMap<CallStep, Readonly<{ endpoint: Endpoint | undefined }>>();
  return (chain, call) => {
    if (!call || !hasWholeUrl(call)) return byName(call?.api?.text ?? chain.api?.text);
    let found = byUrl.get(call);
    if (!found) {
      const said = byName(chain.api?.text);
      found = { endpoint: endpointOfUrl(urlOf(call.request.line!), chosen(project, at), said)?.endpoint ?? said };
      byUrl.set(call, found);
    }
    return found.endpoint;
  };
}

/** The endpoint of an api by name, or of the only api of the project; nothing where no deployment of it is chosen. */
export function endpointNamed(project: Project | undefined, name: string | undefined, at: At): Endpoint | undefined {
  const apis = project?.apis ?? [];
  const api = name === undefined ? (apis.length === 1 ? apis[0] : undefined) : apis.find((each) => each.name === name);
  const endpoint = api && endpointAt(api, at);
  return endpoint && 'url' in endpoint ? endpoint : undefined;
}

/** Whether a call says by a whole URL alone where it goes. */
function hasWholeUrl({ api, request }: CallStep): boolean {
  return api === undefined && request.line?.target.kind === 'absolute';
}

/** The name of the api that a call goes to, at whatever deployment; nothing for a server that is none of the project's. */
export function apiOfCall(call: CallStep, chain: Pick<Chain, 'api'>, project: Project | undefined): string | undefined {
  const only = project?.apis.length === 1 ? project.apis[0]!.name : undefined;
  const said = call.api?.text ?? chain.api?.text ?? only;
  if (!hasWholeUrl(call)) return said;
  const all = (project?.apis ?? []).flatMap(({ endpoints }) => endpoints);
  return endpointOfUrl(urlOf(call.request.line!), all)?.endpoint.api;
}

/** An endpoint below whose URL a whole URL is, and what stands behind it. */
type UrlOfEndpoint = Readonly<{ endpoint: Endpoint; path: string }>;

/** The endpoint with the longest URL, in whole segments, that a whole URL begins with; among equal ones the preferred. */
export function endpointOfUrl(
  url: string,
  endpoints: readonly Endpoint[],
  preferred?: Endpoint,
): UrlOfEndpoint | undefined {
  let best: (UrlOfEndpoint & Readonly<{ length: number }>) | undefined;
  for (const endpoint of endpoints) {
    const base = shownUrl(endpoint);
    const path = pathBelow(url, base);
    if (path === undefined) continue;
    const { length } = splitUrl(base).path;
    if (!best || length > best.length || (length === best.length && endpoint === preferred))
      best = { endpoint, path, length };
  }
  return best && { endpoint: best.endpoint, path: best.path };
}

/** The endpoints of a project where a run is. */
export function chosen(project: Project | undefined, at: At): readonly Endpoint[] {
  return (project?.apis ?? []).flatMap((api) => {
    const endpoint = endpointAt(api, at);
    return 'url' in endpoint ? [endpoint] : [];
  });
}

/** The URL of a request line as far as its text says it; a placeholder stands as what it begins with. */
export function urlOf({ target }: RequestLine): string {
  const [first, next] = target.parts;
  const text = first?.kind === 'literal' ? first.text : '';
  if (!next || next.kind === 'literal') return text;
  return text + (next.operator === '' || next.operator === '+' ? 'x' : next.operator);
}

function pathBelow(url: string, base: string): string | undefined {
  if (!isHttpUrl(url) || !isHttpUrl(base) || originKey(url) !== originKey(base)) return undefined;
  const prefix = splitUrl(base).path.replace(/\/$/, '');
  const rest = url.slice(splitUrl(url).origin.length);
  if (!rest.startsWith(prefix)) return undefined;
  const path = rest.slice(prefix.length);
  return /^(?:$|[/?#])/.test(path) ? path || '/' : undefined;
}
