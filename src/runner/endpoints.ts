import { endpointAt, type At } from '../core/chain/endpoint-at.ts';
import type { SecretStore } from '../adapters/secrets.ts';
import { apiOfCall, endpointNamed, endpointsOf, type EndpointOf } from '../core/chain/endpoints.ts';
import { signsInTo } from '../core/chain/uses.ts';
import type { Chain } from '../core/chain/model.ts';
import { callsOf } from '../core/chain/steps/inside.ts';
import { type Project } from '../core/chain/project-file.ts';
import { checkDeclared, checkSecrets, secretsAsked } from '../core/chain/secrets-asked.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import type { Problem } from '../core/diagnostics/problem.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { didYouMean } from '../core/diagnostics/suggest.ts';
import { CommandError } from './command-error.ts';
import { withoutAuth, type Endpoint } from '../core/http/endpoint.ts';
import { secretValues, type SecretValues } from './secret-values.ts';
import type { Workspace } from './workspace.ts';

/** The endpoints that the calls of chains go to, each once. */
export function endpointsUsed({ project }: Workspace, chains: readonly Chain[], at: At): readonly Endpoint[] {
  const endpoints = chains.flatMap((chain) =>
    callsOf(chain).flatMap((step) => {
      const name = apiOfCall(step, chain, project);
      return (name === undefined ? undefined : endpointNamed(project, name, at)) ?? [];
    }),
  );
  const byName = new Map(endpoints.map((endpoint) => [endpoint.api, endpoint]));
  return [...byName.values()];
}

/** Refuses to go on where chains call an api with deployments of which none is chosen. Throws `CommandError`. */
export function refuseUnchosen({ project }: Workspace, chains: readonly Chain[], at: At): void {
  const unchosen = unchosenApis(project, at);
  if (unchosen.size === 0) return;
  for (const chain of chains) {
    for (const step of callsOf(chain)) {
      const problem = unchosen.get(apiOfCall(step, chain, project) ?? '');
      if (problem) throw new CommandError(problem.code, problem.message, problem.advice);
    }
  }
}

/** The apis with deployments of which none is chosen, and what to say of them. */
export function unchosenApis(project: Project | undefined, at: At): ReadonlyMap<string, Omit<Problem, 'range'>> {
  return new Map(
    (project?.apis ?? []).flatMap((api) => {
      const endpoint = endpointAt(api, at);
      return 'code' in endpoint && endpoint.code === 'deployment-not-chosen' ? [[api.name, endpoint] as const] : [];
    }),
  );
}

export function unknownApi(name: string, known: readonly string[]): CommandError {
  const advice = didYouMean(name, known) ?? `Its APIs are ${known.join(', ')}.`;
  return new CommandError('unknown-api', `The project has no API "${name}"`, advice);
}

/** The secrets that chains and their endpoints ask for: those that are there, and what is wrong with them. */
type FoundSecrets = Readonly<{ values: SecretValues; diagnostics: readonly Diagnostic[] }>;

export function secretsFor(workspace: Workspace, chains: readonly Chain[], at: At, store: SecretStore): FoundSecrets {
  const { project } = workspace;
  const { find, later, isInFile } = store;
  // The credential of an api is needed where a call has none of its own, and does not go without.
  const signed = new Set(
    chains.flatMap((chain) =>
      callsOf(chain).flatMap((step) => (step.request.auth === undefined ? [apiOfCall(step, chain, project)] : [])),
    ),
  );
  const endpoints = endpointsUsed(workspace, chains, at).map((endpoint) =>
    signed.has(endpoint.api) ? endpoint : withoutAuth(endpoint),
  );
  const asked = secretsAsked(chains, endpoints, project?.redis ? [project.redis] : []);
  const owners = secretOwners(project);
  const undeclared = (name: string) => find(name) !== undefined && !isInFile(name) && !owners.has(name);
  return {
    values: secretValues(
      asked.map(({ name }) => name),
      store,
    ),
    diagnostics: [
      ...checkSecrets(asked, { ...store, isFromCommand: (name) => later(name) !== undefined }),
      ...checkDeclared(asked, undeclared),
    ],
  };
}

/** Where calls go; a chain that signs in carries no credentials to the api that it signs in to. */
export function endpointsFor(chain: Chain, { project }: Workspace, at: At): EndpointOf {
  const lookup = endpointsOf(project, at);
  const own = signsInTo(chain, project);
  if (own === undefined) return lookup;
  return (of, call) => {
    const endpoint = lookup(of, call);
    return endpoint?.api === own ? withoutAuth(endpoint) : endpoint;
  };
}
