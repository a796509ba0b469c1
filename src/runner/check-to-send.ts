import type { At } from '../core/chain/endpoint-at.ts';
import type { SecretStore } from '../adapters/secrets.ts';
import { changesNotAllowed } from '../core/chain/changes.ts';
import { endpointsOf } from '../core/chain/endpoints.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { refuseUnchosen, secretsFor } from './endpoints.ts';
import type { SecretValues } from './secret-values.ts';
import type { LoadedChain, Workspace } from './workspace.ts';

/** What a chain may be sent with: its secrets, none where the chain cannot be read, and what is wrong with it. */
type Sendable = Readonly<{
  secrets: SecretValues | undefined;
  diagnostics: readonly Diagnostic[];
}>;

/** Looks at what sending a chain needs beside its being right. Throws `CommandError` where a deployment is to be chosen. */
export function checkToSend(
  workspace: Workspace,
  { chain, diagnostics, used }: LoadedChain,
  at: At,
  allowChanges: readonly string[],
  store: SecretStore,
): Sendable {
  const found = [...workspace.diagnostics, ...diagnostics];
  if (!chain) return { secrets: undefined, diagnostics: found };
  const chains = [chain, ...used.chains];
  refuseUnchosen(workspace, chains, at);
  const { values, diagnostics: ofSecrets } = secretsFor(workspace, chains, at, store);
  const endpointOf = endpointsOf(workspace.project, at);
  const ofChanges = [chain, ...used.steps].flatMap((each) => changesNotAllowed(each, endpointOf, allowChanges));
  return { secrets: values, diagnostics: [...found, ...ofSecrets, ...ofChanges] };
}
