import { AS_WRITTEN, readAt } from '../runner/deployments.ts';
import path from 'node:path';
import { findChains } from '../adapters/project-files.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import { placeholdersOfRequest } from '../core/chain/parts.ts';
import { callsOf } from '../core/chain/steps/inside.ts';
import { secretIn } from '../core/expression/secrecy.ts';
import { edited, withNamed } from '../core/yaml/edit.ts';
import { readYaml } from '../core/yaml/read.ts';
import { apiOfCall } from '../core/chain/endpoints.ts';
import { unknownApi } from '../runner/endpoints.ts';
import type { Io } from './io.ts';
import { loadChain, type Workspace } from '../runner/workspace.ts';

/** That a secret belongs to some apis: still to be written into the project file, or not known for which. */
type Declaration = Readonly<{ name: string; apis: readonly string[]; isNeeded: boolean }>;

/**
 * Which apis a secret is to be declared for: those that a person names; else none where a key of an api reads it already;
 * else those whose calls read it; else the only one that there is. Throws `CommandError` for an api that the project lacks.
 */
export function declarationOf(name: string, wanted: readonly string[], workspace: Workspace, io: Io): Declaration {
  const known = workspace.project?.apis.map((api) => api.name) ?? [];
  for (const api of wanted) if (!known.includes(api)) throw unknownApi(api, known);
  const owners = secretOwners(workspace.project).get(name) ?? new Set<string>();
  if (wanted.length === 0 && owners.size > 0) return { name, apis: [...owners], isNeeded: false };
  const reading = wanted.length > 0 ? wanted : apisReading(name, workspace, io);
  const apis = reading.length > 0 || known.length > 1 ? reading : known;
  return { name, apis, isNeeded: apis.some((api) => !owners.has(api)) };
}

/** The apis whose calls read a secret in what they send. */
function apisReading(name: string, workspace: Workspace, io: Io): readonly string[] {
  const at = readAt(AS_WRITTEN, io.environment, workspace.project);
  const found = findChains(workspace.folder).flatMap((file) => {
    const { chain } = loadChain(workspace, file, at);
    return (chain ? callsOf(chain) : [])
      .filter(({ request }) =>
        placeholdersOfRequest(request).some(({ node }) =>
          secretIn(node, new Map())?.marks.some(({ secret }) => secret === name),
        ),
      )
      .flatMap((step) => apiOfCall(step, chain!, workspace.project) ?? []);
  });
  return [...new Set(found)];
}

/** Writes a declaration into the project file, everything else in it as it was, and tells what came of it. */
export function declared({ name, apis, isNeeded }: Declaration, { project, cwd }: Workspace, io: Io): string {
  if (apis.length === 0) return `It belongs to no API yet: batharon secrets set ${name} --for NAME\n`;
  const belongs = `It belongs to ${apis.join(' and ')}`;
  if (!isNeeded || !project) return `${belongs}.\n`;
  const { file } = project;
  const tree = readYaml({ file, report: () => {} });
  const before = project.secrets.find((each) => each.name === name)?.apis.map(({ text }) => text) ?? [];
  const shown = path.relative(cwd, path.resolve(cwd, file.path));
  const all = [...new Set([...before, ...apis])];
  if (tree?.kind !== 'map' || before.length > 0)
    return `It is declared for ${before.join(' and ')} in ${shown}. For more: secrets: {${name}: [${all.join(', ')}]}.\n`;
  const text = edited(file, withNamed(file, tree, 'secrets', name, apis));
  io.exit.rewriteFile(path.resolve(cwd, file.path), text);
  return `${belongs}, as ${shown} now says: secrets: {${name}: [${apis.join(', ')}]}.\n`;
}
