import { Argument, type Command } from 'commander';
import path from 'node:path';
import { systemClock } from '../../adapters/clock.ts';
import { limiterFiles } from '../../adapters/limiter-files.ts';
import { didYouMean } from '../../core/diagnostics/suggest.ts';
import { limitStates, openLimiter, type LimitState } from '../../core/pacing/limits.ts';
import type { LimiterRules } from '../../core/pacing/schedule.ts';
import { dateTimeText } from '../../core/value/json-write.ts';
import { grouped, spent } from '../../core/value/show.ts';
import { DateTime } from '../../core/value/value.ts';
import { CommandError } from '../command-error.ts';
import type { ExitStatus, Io } from '../io.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { openProject, type Workspace } from '../workspace.ts';
import { examples, type CommandModule } from './definition.ts';
import { formOption, type Form } from './options.ts';

/** `limits`: every rate limiter of the project as it is now; `limits reset API` opens one that a server has closed. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .addArgument(new Argument('[action]', 'open a closed limiter').choices(['reset']))
      .argument('[api]', 'API, or API=DEPLOYMENT')
      .action((action: string | undefined, api: string | undefined, { as }: Readonly<{ as: Form }>) =>
        run((io) => (action === 'reset' ? reset(api, io) : Promise.resolve(list(as, io)))),
      );
    examples(sub, 'batharon limits', 'batharon limits reset harbour', 'batharon limits reset harbour=live');
  },
};

function storeOf({ recordFolder }: Workspace) {
  return limiterFiles(path.join(recordFolder, 'limiters'));
}

function list(as: Form, io: Io): ExitStatus {
  const workspace = openProject(io.cwd);
  const store = storeOf(workspace);
  const now = systemClock.nowMs();
  const states = limitStates(store, (name) => rulesOf(name, workspace), now);
  store.close();
  if (as === 'json') io.exit.out(`${JSON.stringify(states, null, 2)}\n`);
  else if (states.length === 0)
    io.exit.out('Nothing has counted against a limit yet: no API has a rate limit, or none was called.\n');
  else io.exit.out(`${states.map((state) => shown(state, now, paletteOf(io.colors))).join('\n\n')}\n`);
  return 0;
}

/** The rules of an api at a deployment, which a limiter is named after. */
function rulesOf(name: string, { project }: Workspace): LimiterRules | undefined {
  const endpoints = (project?.apis ?? []).flatMap((api) => api.endpoints);
  return endpoints.find(({ api, deployment }) => `${api}@${deployment ?? ''}` === name);
}

function shown({ name, rate, quotas, closed }: LimitState, now: number, palette: Palette): string {
  const rows: (readonly [label: string, text: string])[] = [];
  if (rate !== undefined) rows.push(['rate', rate]);
  for (const { text, count, used, resetsAt } of quotas) {
    const left = Math.max(0, count - used);
    const words = `${grouped(used)} of ${grouped(count)} used, ${grouped(left)} left; resets at ${at(resetsAt)}`;
    rows.push([text, left === 0 ? palette.bad(words) : words]);
  }
  if (closed) {
    const { until, by } = closed;
    rows.push(['closed', palette.bad(`until ${at(until)}, in ${spent(until - now)}`)]);
    if (by)
      rows.push(['because', `the server answered ${by.status} with ${by.field} at ${at(by.at)}, in run ${by.run}`]);
    if (!name.startsWith('origin ')) rows.push(['to open', `batharon limits reset ${said(name)}`]);
  } else rows.push(['state', palette.good('open')]);
  const lines = rows.map(([label, text]) => `  ${palette.quiet(label.padEnd(9))}${text}`);
  return [palette.strong(said(name)), ...lines].join('\n');
}

/** `harbour=live` of `harbour@live`, as `reset` takes it. */
function said(name: string): string {
  return name.replace(/@(?=$| )/, '').replace('@', '=');
}

function at(milliseconds: number): string {
  return dateTimeText(new DateTime(Math.floor(milliseconds / 1000) * 1000));
}

async function reset(wanted: string | undefined, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const store = storeOf(workspace);
  const names = store.names();
  const known = [...new Set(names.map((name) => said(name).split(/[= ]/)[0]!))];
  const choice = known.length > 0 ? `Those with limits are ${known.join(', ')}.` : undefined;
  if (wanted === undefined) throw new CommandError('invalid-option', 'limits reset needs an API', choice);
  const found = names.filter((name) => said(name) === wanted || said(name).split(/[= ]/)[0] === wanted);
  if (found.length === 0)
    throw new CommandError(
      'unknown-api',
      `Nothing has counted against a limit of "${wanted}"`,
      didYouMean(wanted, known) ?? choice,
    );
  for (const name of found) await openLimiter(store, name);
  store.close();
  io.exit.out(`Opened ${found.map(said).join(', ')}. What was used of quotas stays counted.\n`);
  return 0;
}
