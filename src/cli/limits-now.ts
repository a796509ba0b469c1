import path from 'node:path';
import { systemClock } from '../adapters/clock.ts';
import { limiterFiles } from '../adapters/limiter-files.ts';
import { limitStates, type LimitState } from '../core/pacing/limits.ts';
import type { LimiterRules } from '../core/pacing/schedule.ts';
import { dateTimeText } from '../core/value/json-write.ts';
import { grouped, spent } from '../core/value/show.ts';
import { DateTime } from '../core/value/value.ts';
import type { Palette } from './view/palette.ts';
import type { Workspace } from '../runner/workspace.ts';

export function limiterStore({ recordFolder }: Workspace) {
  return limiterFiles(path.join(recordFolder, 'limiters'));
}

/** Every rate limiter of the project as it is at a moment. */
export function limitsAt(workspace: Workspace, now: number): readonly LimitState[] {
  const store = limiterStore(workspace);
  try {
    return limitStates(store, (name) => rulesOf(name, workspace), now);
  } finally {
    store.close();
  }
}

/** The rules of an api at a deployment, which a limiter is named after. */
function rulesOf(name: string, { project }: Workspace): LimiterRules | undefined {
  const endpoints = (project?.apis ?? []).flatMap((api) => api.endpoints);
  return endpoints.find(({ api, deployment }) => `${api}@${deployment ?? ''}` === name);
}

/** What is used of each quota and what is closed now, a line each, of all apis or of some; nothing where there is neither. */
export function limitLines(workspace: Workspace, palette: Palette, apis?: ReadonlySet<string>): readonly string[] {
  const now = systemClock.nowMs();
  const isAsked = ({ name }: LimitState) => !apis || apis.has(limiterName(name).split('=')[0]!);
  return limitsAt(workspace, now)
    .filter(isAsked)
    .flatMap(({ name, quotas, closed }) => [
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
