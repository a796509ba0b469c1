import { systemClock } from '../adapters/clock.ts';
import { StoreFault, type LimiterNow, type LimiterStore } from '../core/pacing/limiter-store.ts';
import { CommandError } from '../runner/command-error.ts';
import { limitStates, type LimitState } from '../core/pacing/limits.ts';
import type { LimiterRules } from '../core/pacing/schedule.ts';
import { dateTimeText } from '../core/value/json-write.ts';
import { grouped, spent } from '../core/value/show.ts';
import { DateTime } from '../core/value/value.ts';
import type { Palette } from './view/palette.ts';
import { openLimiters } from '../runner/limiters.ts';
import { projectSecrets } from '../runner/project-secrets.ts';
import type { Workspace } from '../runner/workspace.ts';
import type { Io } from './io.ts';

/** Works with the rate limiters of a project, wherever they are kept. Throws `CommandError` where they cannot be asked. */
export async function withLimiters<T>(
  workspace: Workspace,
  io: Io,
  work: (store: LimiterStore) => Promise<T>,
): Promise<T> {
  const store = await openLimiters(workspace, io, projectSecrets(workspace, io).find, systemClock);
  try {
    return await work(store);
  } catch (error) {
    if (!(error instanceof StoreFault)) throw error;
    throw new CommandError(
      'redis-not-usable',
      error.message,
      'To name another one: redis in batharon.yaml, or BATHARON_REDIS.',
      3,
    );
  } finally {
    store.close();
  }
}

/** What is kept of the rate limiters of a project: of those in its files all, of shared ones those of its APIs. */
export function limitersNow(workspace: Workspace, io: Io): Promise<ReadonlyMap<string, LimiterNow>> {
  return withLimiters(workspace, io, (store) => store.present());
}

/** Every rate limiter of the project as it is at a moment. */
export async function limitsAt(workspace: Workspace, io: Io, now: number): Promise<readonly LimitState[]> {
  return limitStates(await limitersNow(workspace, io), (name) => rulesOf(name, workspace), now);
}

/** The rules of an api at a deployment, which a limiter is named after. */
function rulesOf(name: string, { project }: Workspace): LimiterRules | undefined {
  const endpoints = (project?.apis ?? []).flatMap((api) => api.endpoints);
  return endpoints.find(({ api, deployment }) => `${api}@${deployment ?? ''}` === name);
}

/** What is used of each quota and what is closed now, a line each, of all apis or of some; nothing where there is neither. */
export async function limitLines(
  workspace: Workspace,
  io: Io,
  palette: Palette,
  apis?: ReadonlySet<string>,
): Promise<readonly string[]> {
  const now = systemClock.nowMs();
  const isAsked = ({ name }: LimitState) => !apis || apis.has(limiterName(name).split('=')[0]!);
  const states = await limitsAt(workspace, io, now).catch((error: unknown) => {
    if (error instanceof CommandError && error.code === 'redis-not-usable') return error;
    throw error;
  });
  if (states instanceof CommandError) return [`limits   ${palette.bad(states.message)}`];
  return states.filter(isAsked).flatMap(({ name, quotas, closed }) => [
    ...quotas.map(({ text, count, used, resetsAt }) => {
      const words = quotaWords(count, used, resetsAt);
      return `quota    ${limiterName(name)}, ${text}: ${used >= count ? palette.bad(words) : words}`;
    }),
    ...(closed
      ? [
          `limit    ${limiterName(name)}: ${palette.bad(`closed ${untilWords(closed.until, now)}`)}; for the reason: batharon limits`,
        ]
      : []),
  ]);
}

export function quotaWords(count: number, used: number, resetsAt: number): string {
  return `${grouped(used)} of ${grouped(count)} used, ${grouped(Math.max(0, count - used))} left; resets at ${timeText(resetsAt)}`;
}

export function untilWords(until: number, now: number): string {
  return `until ${timeText(until)}, in ${spent(until - now)}`;
}

/** `harbour=live` of `harbour@live`, as `limits reset` takes it. */
export function limiterName(name: string): string {
  return name.replace(/@(?=$| )/, '').replace('@', '=');
}

export function timeText(milliseconds: number): string {
  return dateTimeText(new DateTime(Math.floor(milliseconds / 1000) * 1000));
}
