import type { SecretStore } from '../adapters/secrets.ts';
import { endpointFor } from '../core/chain/check.ts';
import type { Chain } from '../core/chain/model.ts';
import type { At } from '../core/chain/project-file.ts';
import { secretsAsked } from '../core/chain/secrets-asked.ts';
import type { Endpoint } from '../core/http/endpoint.ts';
import type { Workspace } from './workspace.ts';

/** The endpoints that the calls of a chain go to, each once. */
export function endpointsUsed({ project }: Workspace, chain: Chain, at: At): readonly Endpoint[] {
  const names = chain.steps.flatMap((step) =>
    step.kind === 'call' && needsApi(step) ? [step.api?.text ?? chain.api?.text] : [],
  );
  const endpoints = [...new Set(names)].map((name) => endpointFor(project, name, at));
  return [...new Set(endpoints.filter((endpoint) => endpoint !== undefined))];
}

function needsApi(step: Extract<Chain['steps'][number], { kind: 'call' }>): boolean {
  return step.request.line?.target.kind !== 'absolute' || step.api !== undefined;
}

/** The secrets that a chain asks for, as far as they are there. */
export function secretsFor(
  chain: Chain,
  endpoints: readonly Endpoint[],
  store: SecretStore,
): Readonly<Record<string, string>> {
  const names = new Set(secretsAsked(chain, endpoints).map(({ name }) => name));
  return Object.fromEntries(
    [...names].flatMap((name): [string, string][] => {
      const value = store.find(name);
      return value === undefined ? [] : [[name, value]];
    }),
  );
}
