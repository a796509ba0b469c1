import { openSecrets, type SecretStore } from '../adapters/secrets.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import type { Caller } from './caller.ts';
import type { Workspace } from './workspace.ts';

/** The secrets of a project. All that it declares are masked from then on, whether anything reads them or not. */
export function projectSecrets({ project, hasProject, folder }: Workspace, { environment, exit }: Caller): SecretStore {
  const store = openSecrets(hasProject ? folder : undefined, environment);
  for (const name of secretOwners(project).keys()) {
    const value = store.find(name);
    if (value !== undefined) exit.masker.add(name, value, store.isCommon(value));
  }
  return store;
}
