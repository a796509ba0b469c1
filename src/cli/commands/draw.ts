import type { Command } from 'commander';
import path from 'node:path';
import { hasErrors } from '../../core/diagnostics/source.ts';
import type { Chain } from '../../core/chain/model.ts';
import { boxPicture, type BoxPalette } from '../../core/picture/box-picture.ts';
import { picturePage, svgOf } from '../../core/picture/loader.ts';
import type { Picture, RunMarks } from '../../core/picture/picture.ts';
import { pictureOf } from '../../core/picture/picture-of.ts';
import { marksOf } from '../../core/report/picture-marks.ts';
import { sourceOf } from '../../core/report/run-source.ts';
import { summarizeRun } from '../../core/report/run-summary.ts';
import { visibleReport } from '../../core/value/visible.ts';
import { CommandError } from '../../runner/command-error.ts';
import { AS_WRITTEN, readAt } from '../../runner/deployments.ts';
import { isAsRun } from '../../runner/ran-as-is.ts';
import { newestRunOf, openRecord } from '../../runner/record.ts';
import { inProject, loadChain, openProject, type Workspace } from '../../runner/workspace.ts';
import type { ExitStatus, Io } from '../io.ts';
import { writeResult } from '../results.ts';
import { showDiagnostics, tally } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { sized } from '../view/text.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ run?: string }>;

/** `draw CHAIN [FILE]`: a chain as a picture of its data. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<chain>', 'chain file')
      .argument('[file]', 'picture to write: .svg, or .html with details (default: drawn in the terminal)')
      .option('--run <id>', 'run to lay over it: an id, last, or last-good')
      .action((chain: string, file: string | undefined, options: Options) =>
        run((io) => Promise.resolve(execute(chain, file, options, io))),
      );
    examples(
      sub,
      'batharon draw chains/berth.chain.yaml',
      'batharon draw chains/berth.chain.yaml berth.svg',
      'batharon draw chains/arrivals.chain.yaml arrivals.html --run last',
    );
  },
};

/** Pictures by the ending of their file. */
const FORMS: Readonly<Record<string, (picture: Picture, run?: RunMarks) => string>> = {
  '.svg': svgOf,
  '.html': picturePage,
};

function execute(file: string, target: string | undefined, options: Options, io: Io): ExitStatus {
  const form = target === undefined ? undefined : FORMS[path.extname(target).toLowerCase()];
  if (target !== undefined && !form)
    throw new CommandError(
      'invalid-option',
      `A picture is a .svg or .html file, not "${target}"`,
      'Example: berth.svg.',
    );
  const workspace = openProject(io.cwd);
  const { chain, diagnostics } = loadChain(workspace, file, readAt(AS_WRITTEN, {}, workspace.project));
  if (!chain) {
    io.exit.err(
      `${showDiagnostics(diagnostics, paletteOf(io.colors), io.columns)}\n${tally(diagnostics)}; nothing to draw\n`,
    );
    return 2;
  }
  if (hasErrors(diagnostics)) io.exit.err(`note: ${tally(diagnostics)} in this chain: batharon check ${file}\n`);
  const picture = pictureOf(chain, workspace.project);
  const marks = options.run === undefined ? undefined : runMarks(picture, chain, file, options.run, workspace, io);
  if (target === undefined) {
    io.exit.out(`${boxPicture(picture, io.columns, boxPalette(io), marks)}\n`);
    return 0;
  }
  const size = writeResult(target, [visibleReport(form!(picture, marks), false)], io);
  io.exit.err(`wrote   ${target}   ${sized(size)}\n`);
  return 0;
}

/** What a run did at each step, where it is one of this chain. */
function runMarks(picture: Picture, chain: Chain, file: string, id: string, workspace: Workspace, io: Io): RunMarks {
  const record = id === 'last' ? newestRunOf(workspace, file) : openRecord(workspace, id);
  if (!record)
    throw new CommandError('run-not-found', `No run of ${file} is recorded here`, `Run it: batharon run ${file}`);
  const [first] = record.journal;
  const place = inProject(workspace, file);
  if (first?.type !== 'run' || first.chain !== place) {
    const other =
      first?.type === 'run' && first.chain !== '' ? `is a run of ${first.chain}` : 'is not a run of a chain';
    throw new CommandError('run-not-found', `${record.id} ${other}`, `The last run of this chain: --run last.`);
  }
  if (isAsRun(first, place, chain.file) === false) io.exit.err(`note: ${file} has changed since run ${record.id}\n`);
  return marksOf(picture, summarizeRun(sourceOf(record)));
}

function boxPalette({ colors }: Io): BoxPalette {
  const { strong, quiet, good, bad, name } = paletteOf(colors);
  return { title: strong, quiet, passed: good, failed: bad, api: name };
}
