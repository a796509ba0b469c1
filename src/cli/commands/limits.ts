import { Argument, type Command } from 'commander';
import { systemClock } from '../../adapters/clock.ts';
import { didYouMean } from '../../core/diagnostics/suggest.ts';
import type { Closing } from '../../core/pacing/limiter-state.ts';
import type { LimitState } from '../../core/pacing/limits.ts';
import { counted, grouped } from '../../core/value/show.ts';
import { CommandError } from '../../runner/command-error.ts';
import type { ExitStatus, Io } from '../io.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { limiterName, limitersNow, limitsAt, withLimiters, quotaWords, timeText, untilWords } from '../limits-now.ts';
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
        run((io) => (action === 'reset' ? reset(api, io) : list(as, io))),
      );
    examples(sub, 'batharon limits', 'batharon limits reset harbour', 'batharon limits reset harbour=live');
  },
};

async function list(as: Form, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const now = systemClock.nowMs();
  const states = await limitsAt(workspace, io, now);
  if (as === 'json') io.exit.out(`${JSON.stringify(states, null, 2)}\n`);
  else if (states.length === 0)
    io.exit.out('Nothing has counted against a limit yet: no API has a rate limit, or none was called.\n');
  else io.exit.out(`${states.map((state) => shown(state, now, paletteOf(io.colors))).join('\n\n')}\n`);
  return 0;
}

function shown({ name, rate, quotas, closed, processes }: LimitState, now: number, palette: Palette): string {
  const rows: (readonly [label: string, text: string])[] = [];
  if (rate !== undefined) rows.push(['rate', rate]);
  for (const { text, count, used, resetsAt } of quotas) {
    const words = quotaWords(count, used, resetsAt);
    rows.push([text, used >= count ? palette.bad(words) : words]);
  }
  if (closed) {
    const { until, by } = closed;
    rows.push(['closed', palette.bad(untilWords(until, now))]);
    if (by) rows.push(['because', reasonWords(by)]);
    if (!name.startsWith('origin ')) rows.push(['to open', `batharon limits reset ${limiterName(name)}`]);
  } else rows.push(['state', palette.good('open')]);
  for (const { id, waiting, inFlight } of processes)
    rows.push(['process', `${Number(id).toString(36).slice(-4)}: ${processWords(waiting, inFlight)}`]);
  const lines = rows.map(([label, text]) => `  ${palette.quiet(label.padEnd(9))}${text}`);
  return [palette.strong(limiterName(name)), ...lines].join('\n');
}

function reasonWords({ status, field, at, run }: Closing): string {
  if (status === 0) return 'Redis has started, and keeps nothing on its disk: a whole window is waited for';
  const where = run === '' ? '' : `, in run ${run}`;
  return `the server answered ${status} with ${field} at ${timeText(at)}${where}`;
}

function processWords(waiting: number, inFlight: number): string {
  return [
    ...(inFlight > 0 ? [`${counted(inFlight, 'request')} in flight`] : []),
    ...(waiting > 0 ? [`${grouped(waiting)} waiting`] : []),
  ].join(', ');
}

async function reset(wanted: string | undefined, io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const names = [...(await limitersNow(workspace, io)).keys()];
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
  await withLimiters(workspace, io, async (store) => {
    for (const name of found) await store.open(name);
  });
  io.exit.out(`Opened ${found.map(limiterName).join(', ')}. What was used of quotas stays counted.\n`);
  return 0;
}
