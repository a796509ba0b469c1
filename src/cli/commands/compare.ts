import { statSync } from 'node:fs';
import path from 'node:path';
import type { Command } from 'commander';
import { compareDescriptions } from '../compare-descriptions.ts';
import { alikeCalls, compareRuns, type ComparedCall } from '../../core/report/compare.ts';
import { summarizeRun } from '../../core/report/run-summary.ts';
import { counted } from '../../core/value/show.ts';
import type { ExitStatus, Io } from '../io.ts';
import { goodRunBeside, openRecord } from '../../runner/record.ts';
import { reportedSource } from '../../runner/divisions.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { paletteOf, type Palette } from '../view/palette.ts';
import { padded, wrapped } from '../view/text.ts';
import { visible } from '../../core/value/visible.ts';
import { examples, type CommandModule } from './definition.ts';
import { formOption } from './options.ts';

type Options = Readonly<{ as: 'text' | 'json' }>;

/** `compare RUN RUN`, `compare FILE FILE`: what is different in the second run, or API description. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .argument('<before>', 'a run, or an API description')
      .argument('[after]', 'another run, or a later description', 'last')
      .action((before: string, after: string, options: Options) => run((io) => execute(before, after, options, io)));
    examples(
      sub,
      'batharon compare last-good',
      'batharon compare 0522-1412-7k 0523-1412-q2 --as json',
      'batharon compare openapi/harbour.yaml new/harbour.yaml',
    );
  },
};

async function execute(before: string, after: string, { as }: Options, io: Io): Promise<ExitStatus> {
  const isFile = (name: string) => statSync(path.resolve(io.cwd, name), { throwIfNoEntry: false })?.isFile() === true;
  if (isFile(before) && isFile(after)) return compareDescriptions(before, after, as, io);
  const workspace = openWorkspace(io.cwd);
  const second = openRecord(workspace, after);
  const first = before === 'last-good' ? goodRunBeside(workspace, second) : openRecord(workspace, before);
  const [old, now] = [first, second].map(({ id }) => summarizeRun(reportedSource(workspace.recordFolder, id)!));
  const compared = compareRuns(old!, now!);
  const differing = compared.filter(({ changes, only }) => only !== undefined || changes.length > 0);
  if (as === 'json') io.exit.out(`${JSON.stringify({ before: old!.id, after: now!.id, calls: compared }, null, 2)}\n`);
  else
    io.exit.out(
      shown(
        `${now!.id} (${now!.name}) compared with ${old!.id}`,
        compared,
        differing,
        paletteOf(io.colors),
        io.columns,
      ),
    );
  return differing.some(({ only, changes }) => only !== undefined || changes.some(({ what }) => what !== 'time'))
    ? 1
    : 0;
}

function shown(
  heading: string,
  all: readonly ComparedCall[],
  differing: readonly ComparedCall[],
  palette: Palette,
  columns: number,
): string {
  const lines = alikeCalls(differing).flatMap(({ first: { name, only, changes, setAside }, count }) => [
    palette.strong(visible(name)) +
      (count > 1 ? ` and ${counted(count - 1, 'more call')} alike` : '') +
      (only ? palette.warning(only === 'after' ? '   only in the second run' : '   only in the first run') : ''),
    ...changes.flatMap(({ what, text }) => {
      const [first = '', ...rest] = wrapped(visible(text), Math.max(30, columns - 12));
      const paint = what === 'shape' ? palette.bad : what === 'time' ? palette.quiet : palette.warning;
      return [`  ${paint(padded(what, 8))}  ${first}`, ...rest.map((line) => `            ${line}`)];
    }),
    ...(setAside > 0 ? [palette.quiet(`  ${counted(setAside, 'difference')} in ids and times ignored`)] : []),
  ]);
  const aside = all.reduce((sum, { setAside }) => sum + setAside, 0);
  const same = all.length - differing.length;
  const sum = `${counted(differing.length, 'call')} ${differing.length === 1 ? 'differs' : 'differ'}, ${same} ${same === 1 ? 'does' : 'do'} not${aside > 0 ? `; ${counted(aside, 'difference')} in ids and times ignored` : ''}`;
  return [palette.quiet(heading), ...lines, '', sum, ''].join('\n');
}
