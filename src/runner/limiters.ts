import path from 'node:path';
import { limiterFiles } from '../adapters/limiter-files.ts';
import type { SecretStore } from '../adapters/secrets.ts';
import { REDIS_URL, isRedisUrl, redisUrlOf } from '../core/chain/redis-url.ts';
import { LockedLimiters } from '../core/pacing/locked-limiters.ts';
import type { LimiterStore } from '../core/pacing/limiter-store.ts';
import type { Clock } from '../core/ports.ts';
import type { Caller } from './caller.ts';
import { CommandError } from './command-error.ts';
import type { Workspace } from './workspace.ts';

/** The environment names a Redis before the project does. */
const NAME = 'BATHARON_REDIS';

/** The Redis in which the limits of a project are shared; nothing where they are kept in its files. Throws `CommandError`. */
export function sharedLimitsUrl(
  { project }: Workspace,
  { environment, exit }: Pick<Caller, 'environment' | 'exit'>,
  find: SecretStore['find'],
): string | undefined {
  const said = environment[NAME];
  const url = said || (project?.redis && redisUrlOf(project.redis, find));
  if (!url) return undefined;
  if (!isRedisUrl(url))
    throw new CommandError('invalid-target', `${said ? NAME : 'redis'} is not the URL of a Redis`, REDIS_URL);
  const { password } = new URL(url);
  if (password !== '') exit.masker.add(NAME, decodeURIComponent(password));
  return url;
}

/** Where the rate limiters of a project are kept: in its files, or in the Redis that it names, which is loaded only then. */
export async function openLimiters(
  workspace: Workspace,
  caller: Pick<Caller, 'environment' | 'exit'>,
  find: SecretStore['find'],
  clock: Clock,
): Promise<LimiterStore> {
  const url = sharedLimitsUrl(workspace, caller, find);
  if (url === undefined) return new LockedLimiters(limiterFiles(path.join(workspace.recordFolder, 'limiters')), clock);
  const { RedisLimiters } = await import('../adapters/redis/redis-limiters.ts');
  const endpoints = (workspace.project?.apis ?? []).flatMap((api) => api.endpoints);
  const names = endpoints.map(({ api, deployment }) => `${api}@${deployment ?? ''}`);
  return new RedisLimiters(url, new URL(url).host, clock, names);
}
