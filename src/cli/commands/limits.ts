import { Argument, type Command } from 'commander';
import { systemClock } from '../../adapters/clock.ts';
import { didYouMean } from '../../core/diagnostics/suggest.ts';
import { openLimiter, type LimitState } from '../../core/pacing/limits.ts';
import { CommandError } from '../../runner/command-error.ts';
import type { ExitStatus, Io } from '../io.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { limiterName, limiterStore, limitsAt, quotaWords, timeText, untilWords } from '../limits-now.ts';
import { openProject } from '../../runner/workspace.ts';
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

function list(as: Form, io: Io): ExitStatus {
  const workspace = openProject(io.cwd);
  const now = systemClock.nowMs();
  const states = limitsAt(workspace, now);
  if (as === 'json') io.exit.out(`${JSON.stringify(states, null, 2)}\n`);
  else if (states.length === 0)
    io.exit.out('Nothing has counted against a limit yet: no API has a rate limit, or none was called.\n');
  else io.exit.out(`${states.map((state) => shown(state, now, paletteOf(io.colors))).join('\n\n')}\n`);
  return 0;
}

function shown({ name, rate, quotas, closed }: LimitState, now: number, palette: Palette): string {
  const rows: (readonly [label: string, text: string])[] = [];
  if (rate !== undefined) rows.push(['rate', rate]);
  for (const { text, count, used, resetsAt } of quotas) {
    const words = quotaWords(count, used, resetsAt);
    rows.push([text, used >= count ? palette.bad(words) : words]);
  }
  if (closed) {
    const { until, by } = closed;
    rows.push(['closed', palette.bad(untilWords(until, now))]);
    if (by)
      rows.push([
        'because',
        `the server answered ${by.status} with ${by.field} at ${timeText(by.at)}, in run ${by.run}`,
      ]);
    if (!name.startsWith('origin ')) rows.push(['to open', `batharon limits reset ${limiterName(name)}`]);
  } else rows.push(['state', palette.good('open')]);
  const lines = rows.map(([label, text]) => `  ${palette.quiet(label.padEnd(9))}${text}`);
  return [palette.strong(limiterName(name)), ...lines].join('\n');
}

async function reset(wanted: string | undefined, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const store = limiterStore(workspace);
  const names = store.names();
  const known = [...new Set(names.map((name) => limiterName(name).split(/[= ]/)[0]!))];
  const choice = known.length > 0 ? `Those with limits are ${known.join(', ')}.` : undefined;
  if (wanted === undefined) throw new CommandError('invalid-option', 'limits reset needs an API', choice);
  const found = names.filter((name) => limiterName(name) === wanted || limiterName(name).split(/[= ]/)[0] === wanted);
  if (found.length === 0)
    throw new CommandError(
      'unknown-api',
      `Nothing has counted against a limit of "${wanted}"`,
      didYouMean(wanted, known) ?? choice,
    );
  for (const name of found) await openLimiter(store, name);
  store.close();
  io.exit.out(`Opened ${found.map(limiterName).join(', ')}. What was used of quotas stays counted.\n`);
  return 0;
}
