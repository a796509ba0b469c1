import type { SecretStore } from '../adapters/secrets.ts';
import { endpointLookup } from '../core/chain/check.ts';
import type { CallStep, Chain } from '../core/chain/model.ts';
import { callsOf } from '../core/chain/steps/inside.ts';
import type { At } from '../core/chain/project-file.ts';
import { checkDeclared, checkSecrets, secretsAsked } from '../core/chain/secrets-asked.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
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
  const asked = secretsAsked(chains, endpointsUsed(workspace, chains, at));
  const values: Record<string, string> = {};
  for (const { name } of asked) {
    const value = find(name);
    if (value !== undefined) values[name] = value;
  }
  const owners = secretOwners(workspace.project);
  const undeclared = (name: string) => find(name) !== undefined && !isInFile(name) && !owners.has(name);
  return {
    values,
    diagnostics: [...checkSecrets(asked, { find, places, isCommon }), ...checkDeclared(asked, undeclared)],
  };
}
