import { sourceOf } from '../../core/report/run-source.ts';
import type { InputOptions } from '../../runner/given-inputs.ts';
import { systemClock } from '../../adapters/clock.ts';
import type { Command } from 'commander';
import type { ListenerEvent } from '../../core/journal/events.ts';
import type { ExitStatus, Io } from '../io.ts';
import { newestRunOf, openRecord } from '../../runner/record.ts';
import { keptOf } from '../../runner/recorded-run.ts';
import { prepareRehearsal, rehearse } from '../../runner/rehearsal.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openProject } from '../../runner/workspace.ts';
import { showDiagnostics, tally } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { KnownRun } from '../view/known-run.ts';
import { RunView } from '../view/run-view.ts';
import { widthsOf } from '../view/widths.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = InputOptions & Readonly<{ run?: string; quiet?: boolean; verbose?: boolean }>;

/** `rehearse CHAIN`: runs it offline on recorded responses, with the files as they are now. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('<chain>', 'chain file')
      .option('--run <run>', 'run whose responses are used (default: the newest of the chain)')
      .option('--input <name=value>', 'another value for an input (repeatable)', several, [])
      .option('--inputs-from <file>', 'read inputs from a YAML or JSON file')
      .option('--quiet', 'show failures only')
      .option('--verbose', 'show every request, and every step inside loops')
      .action((chain: string, options: Options) => run((io) => execute(chain, options, io)));
    examples(
      sub,
      'batharon rehearse chains/berth.chain.yaml',
      'batharon rehearse chains/berth.chain.yaml --run last-good',
    );
  },
};

async function execute(file: string, options: Options, around: Io): Promise<ExitStatus> {
  // Nobody is asked in a rehearsal: what was given is recorded.
  const io = { ...around, mayAsk: false };
  const workspace = openProject(io.cwd);
  const record = options.run === undefined ? newestRunOf(workspace, file) : openRecord(workspace, options.run);
  const [first] = record?.journal ?? [];
  if (!record || first?.type !== 'run')
    throw new CommandError('run-not-found', 'This chain has no recorded run', `Run it once: batharon run ${file}`);
  const prepared = await prepareRehearsal(file, options, workspace, record, first, io);
  const palette = paletteOf(io.colors);
  const { plan, diagnostics } = prepared;
  if (diagnostics.length > 0) io.exit.err(`${showDiagnostics(diagnostics, palette, io.columns)}\n`);
  if (!plan) {
    io.exit.err(`${tally(diagnostics)}; nothing to rehearse\n`);
    return 2;
  }
  const known = new KnownRun();
  const kept = keptOf(record, 'rehearse', (event) => known.addBefore(event));
  const view = new RunView({
    write: io.exit.out,
    palette,
    widths: widthsOf(plan.chain),
    namedRun: record.id,
    quiet: options.quiet ?? false,
    verbose: options.verbose ?? false,
    columns: io.columnsNow,
    beforeWriting: io.exit.beforeWriting,
    nowMs: systemClock.nowMs,
    moves: false,
    before: { known, source: sourceOf(record) },
  });
  const listener = (event: ListenerEvent) => void (event.type !== 'file' && view.listen(event));
  const { exit } = await rehearse(plan, record, kept, [listener], io);
  return exit;
}
