import type { SecretStore } from '../adapters/secrets.ts';
import { endpointLookup } from '../core/chain/check.ts';
import type { CallStep, Chain } from '../core/chain/model.ts';
import { callsOf } from '../core/chain/steps/inside.ts';
import { endpointAt, type At, type Project } from '../core/chain/project-file.ts';
import { checkDeclared, checkSecrets, secretsAsked } from '../core/chain/secrets-asked.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import type { Problem } from '../core/diagnostics/problem.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { didYouMean } from '../core/diagnostics/suggest.ts';
import { CommandError } from './command-error.ts';
import type { Endpoint } from '../core/http/endpoint.ts';
import type { Workspace } from './workspace.ts';

/** The endpoints that the calls of chains go to, each once. */
export function endpointsUsed({ project }: Workspace, chains: readonly Chain[], at: At): readonly Endpoint[] {
  const names = chains.flatMap((chain) =>
    callsOf(chain).flatMap((step) => (needsApi(step) ? [step.api?.text ?? chain.api?.text] : [])),
  );
  const endpoints = [...new Set(names)].map(endpointLookup(project, at));
  return [...new Set(endpoints.filter((endpoint) => endpoint !== undefined))];
}

/** Refuses to go on where chains call an api with deployments of which none is chosen. Throws `CommandError`. */
export function refuseUnchosen({ project }: Workspace, chains: readonly Chain[], at: At): void {
  const unchosen = unchosenApis(project, at);
  if (unchosen.size === 0) return;
  for (const chain of chains) {
    for (const step of callsOf(chain)) {
      const problem = needsApi(step) && unchosen.get(apiOfCall(step, chain, project) ?? '');
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

/** The name of the api that a call goes to: its own, that of its chain, or the only one that there is. */
export function apiOfCall(step: CallStep, chain: Chain, project: Project | undefined): string | undefined {
  const only = project?.apis.length === 1 ? project.apis[0]!.name : undefined;
  return step.api?.text ?? chain.api?.text ?? only;
}

function needsApi(step: CallStep): boolean {
  return step.request.line?.target.kind !== 'absolute' || step.api !== undefined;
}

/** The secrets that chains and their endpoints ask for: those that are there, and what is wrong with them. */
export type FoundSecrets = Readonly<{ values: Readonly<Record<string, string>>; diagnostics: readonly Diagnostic[] }>;

export function secretsFor(
  workspace: Workspace,
  chains: readonly Chain[],
  at: At,
  { find, places, isInFile, isCommon }: SecretStore,
): FoundSecrets {
  const { project } = workspace;
  // The credential of an api is needed where a call has none of its own, and does not go without.
  const signed = new Set(
    chains.flatMap((chain) =>
      callsOf(chain).flatMap((step) => (step.request.auth === undefined ? [apiOfCall(step, chain, project)] : [])),
    ),
  );
  const endpoints = endpointsUsed(workspace, chains, at).map((endpoint) =>
    signed.has(endpoint.api) ? endpoint : { ...endpoint, auth: undefined },
  );
  const asked = secretsAsked(chains, endpoints);
  const values: Record<string, string> = {};
  for (const { name } of asked) {
    const value = find(name);
    if (value !== undefined) values[name] = value;
  }
  const owners = secretOwners(project);
  const undeclared = (name: string) => find(name) !== undefined && !isInFile(name) && !owners.has(name);
  return {
    values,
    diagnostics: [...checkSecrets(asked, { find, places, isCommon }), ...checkDeclared(asked, undeclared)],
  };
}
