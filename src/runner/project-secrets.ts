import { openSecrets, type SecretStore } from '../adapters/secrets.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import type { Caller } from './caller.ts';
import type { Workspace } from './workspace.ts';

/**
 * The secrets of a project. All that it declares are masked from then on, whether anything reads them or not; what a command
 * gives is masked before anybody else has it.
 */
export function projectSecrets({ project, hasProject, folder }: Workspace, { environment, exit }: Caller): SecretStore {
  const commands = (project?.secrets ?? []).flatMap(({ name, command }) =>
    command ? [[name, command.map(({ text }) => text)] as const] : [],
  );
  const store = openSecrets(hasProject ? folder : undefined, environment, new Map(commands));
  const masked = (name: string, value: string): string => {
    exit.masker.add(name, value, store.isCommon(value));
    return value;
  };
  for (const name of secretOwners(project).keys()) {
    const value = store.find(name);
    if (value !== undefined) masked(name, value);
  }
  const later = (name: string) => {
    const give = store.later(name);
    return give && (() => masked(name, give()));
  };
  return { ...store, later };
}
