import type { Project } from './project-file.ts';
import { secretsInTexts, textsOfEndpoint } from './secrets-asked.ts';

/** The apis of a project that a secret belongs to: those whose keys read it, and those that `secrets` names. */
export type SecretOwners = ReadonlyMap<string, ReadonlySet<string>>;

export function secretOwners(project: Project | undefined): SecretOwners {
  const owners = new Map<string, Set<string>>();
  const add = (name: string, api: string): void => {
    const known = owners.get(name) ?? new Set<string>();
    owners.set(name, known.add(api));
  };
  for (const endpoint of (project?.apis ?? []).flatMap(({ endpoints }) => endpoints))
    for (const name of secretsInTexts(textsOfEndpoint(endpoint))) add(name, endpoint.api);
  // What opens the Redis of the project goes to no API.
  for (const name of project?.redis ? secretsInTexts([project.redis]) : [])
    owners.set(name, owners.get(name) ?? new Set());
  for (const { name, apis } of project?.secrets ?? []) for (const api of apis) add(name, api.text);
  return owners;
}
