import { sorted, type Diagnostic, type Source } from '../diagnostics/source.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { rules } from './checks/list.ts';
import { ruleContext, type RuleSurroundings } from './checks/rule.ts';
import type { Chain } from './model.ts';
import { endpointAt, type At, type Project } from './project-file.ts';
import { walkChain } from './walk.ts';

/** Everything that can be known to be wrong with a chain in its project before anything is sent, in order of place. */
export function checkChain(
  chain: Chain,
  project: Project | undefined,
  at: At,
  around: RuleSurroundings,
): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  const context = ruleContext(chain, project, around, found);
  walkChain(
    chain,
    { endpointOf: endpointOfCalls(chain, project, at) },
    rules.map((rule) => rule(context)),
  );
  return sorted(found);
}

/** The endpoint of a call's api, or of the chain's default when the call names none. */
export function endpointOfCalls(
  chain: Chain,
  project: Project | undefined,
  at: At,
): (api: Source | undefined) => Endpoint | undefined {
  const endpoints = endpointLookup(project, at);
  return (api) => endpoints(api?.text ?? chain.api?.text);
}

/** Finds the endpoint of an api by name, or of the only api of the project; each is worked out once. */
export type EndpointLookup = (api: string | undefined) => Endpoint | undefined;

export function endpointLookup(project: Project | undefined, at: At): EndpointLookup {
  const known = new Map<string | undefined, Endpoint | undefined>();
  return (name) => {
    if (!known.has(name)) known.set(name, endpointFor(project, name, at));
    return known.get(name);
  };
}

function endpointFor(project: Project | undefined, name: string | undefined, at: At): Endpoint | undefined {
  const apis = project?.apis ?? [];
  const api = name === undefined ? (apis.length === 1 ? apis[0] : undefined) : apis.find((each) => each.name === name);
  const endpoint = api && endpointAt(api, at);
  return endpoint && 'url' in endpoint ? endpoint : undefined;
}
