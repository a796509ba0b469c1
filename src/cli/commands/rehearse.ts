import { systemClock } from '../../adapters/clock.ts';
import { sourceOf } from '../../core/report/run-summary.ts';
import type { Command } from 'commander';
import { hasErrors, sorted } from '../../core/diagnostics/source.ts';
import { secretsFor } from '../endpoints.ts';
import { commandInputs, type InputOptions } from '../inputs.ts';
import type { ExitStatus, Io } from '../io.ts';
import { newestRunOf, openRecord } from '../record.ts';
import { deploymentsOf, keptOf, recordedInputs } from '../recorded-run.ts';
import { rehearse } from '../rehearsal.ts';
import { projectSecrets } from '../project-secrets.ts';
import { CommandError } from '../command-error.ts';
import { loadChain, openProject, readAt } from '../workspace.ts';
import { showDiagnostics, tally } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
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
  const at = readAt(deploymentsOf(first), io.environment, workspace.project);
  const { chain, diagnostics, used } = loadChain(workspace, file, at);
  const found = [...workspace.diagnostics, ...diagnostics];
  const checked = hasErrors(found) ? undefined : chain;
  const store = projectSecrets(workspace, io);
  const secrets = chain ? Object.keys(secretsFor(workspace, [chain, ...used.chains], at, store).values) : [];
  const clock = { seed: first.seed, now: first.now ?? new Date(first.at).toISOString() };
  const given = { ...options, ...clock };
  const recorded = recordedInputs(first, record, false);
  const masks = Object.fromEntries(secrets.map((name) => [name, `\u2039${name}\u203a`]));
  const {
    inputs,
    host,
    diagnostics: wrong,
  } = await commandInputs(checked, file, masks, given, workspace, io, { recorded });
  found.push(...wrong);
  const palette = paletteOf(io.colors);
  if (found.length > 0) io.exit.err(`${showDiagnostics(sorted(found), palette, io.columns)}\n`);
  if (!chain || !inputs || hasErrors(found)) {
    io.exit.err(`${tally(found)}; nothing to rehearse\n`);
    return 2;
  }
  const view = new RunView({
    write: io.exit.out,
    palette,
    widths: widthsOf(chain),
    namedRun: record.id,
    quiet: options.quiet ?? false,
    verbose: options.verbose ?? false,
    columns: io.columnsNow,
    beforeWriting: io.exit.beforeWriting,
    nowMs: systemClock.nowMs,
    moves: false,
  });
  view.know(sourceOf(record));
  const plan = { workspace, chain, used, at, inputs, host };
  const { exit } = await rehearse(
    { ...plan, secrets: masks },
    record,
    keptOf(record, 'rehearse'),
    [(event) => void (event.type !== 'file' && view.listen(event))],
    io,
  );
  return exit;
}
