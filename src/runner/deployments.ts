import { endpointAt, type At } from '../core/chain/endpoint-at.ts';
import { type Project } from '../core/chain/project-file.ts';
import { CommandError } from './command-error.ts';
import { readSettings } from './settings-said.ts';

/** Where a run is, as the command line says it: deployments, and settings other than theirs. */
export type Where = Readonly<{ at: readonly string[]; setting?: readonly string[] }>;

/** Where the files of a project say. */
export const AS_WRITTEN: Where = { at: [] };

/** `--at live`, `--at harbour=live`, several of them; without any what `BATHARON_AT` says. Unknown names are refused. */
export function readAt(
  { at: given, setting = [] }: Where,
  environment: NodeJS.ProcessEnv,
  project: Project | undefined,
): At {
  const said = given.length > 0 ? given : (environment['BATHARON_AT']?.split(',').filter(Boolean) ?? []);
  const at = { ...saidAt(said), ...(setting.length > 0 ? { settings: readSettings(setting, project) } : {}) };
  if (!project) return at;
  refuseUnknown(at, project);
  // Which of several is meant matters only where one is called.
  for (const api of said.length > 0 ? project.apis : []) {
    const endpoint = endpointAt(api, at);
    if ('code' in endpoint && endpoint.code !== 'deployment-not-chosen')
      throw new CommandError(endpoint.code, endpoint.message, endpoint.advice);
  }
  if (at.all !== undefined && !deploymentsIn(project).includes(at.all))
    throw new CommandError(
      'unknown-deployment',
      `No API has a deployment "${at.all}"`,
      'These APIs have one URL each.',
    );
  return at;
}

/** What was said, for all apis and for single ones. Two different words for one api are refused. */
function saidAt(said: readonly string[]): At {
  let all: string | undefined;
  const byApi = Object.create(null) as Record<string, string>;
  for (const each of said) {
    const split = each.indexOf('=');
    const api = split < 0 ? undefined : each.slice(0, split);
    const wanted = each.slice(split + 1);
    const before = api === undefined ? all : byApi[api];
    if (before !== undefined && before !== wanted)
      throw new CommandError(
        'invalid-option',
        `--at names two deployments${api === undefined ? '' : ` of ${api}`}: ${before} and ${wanted}`,
      );
    if (api === undefined) all = wanted;
    else byApi[api] = wanted;
  }
  return { all, byApi };
}

function refuseUnknown({ byApi }: At, { apis }: Project): void {
  const names = apis.map(({ name }) => name);
  for (const name of Object.keys(byApi)) {
    if (!names.includes(name))
      throw new CommandError('unknown-api', `The project has no API "${name}"`, `Its APIs are ${names.join(', ')}.`);
  }
}

function deploymentsIn({ apis }: Project): readonly string[] {
  return apis.flatMap(({ endpoints }) => endpoints.flatMap(({ deployment }) => deployment ?? []));
}
