import type { Command } from 'commander';
import path from 'node:path';
import { findChains } from '../../adapters/project-files.ts';
import { openSecrets } from '../../adapters/secrets.ts';
import { hasErrors, positionOf, sorted, type Diagnostic } from '../../core/diagnostics/source.ts';
import { counted } from '../../core/value/show.ts';
import type { ExitStatus, Io } from '../io.ts';
import { secretsFor } from '../endpoints.ts';
import { loadChain, openProject, readAt } from '../workspace.ts';
import { showDiagnostics, tally } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { Option } from 'commander';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Readonly<{ at: readonly string[]; as: 'text' | 'json' }>;

/** `check [FILES]`: everything that can be known to be wrong before anything is sent. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[files...]', 'chain files; without any, all of the project')
      .option('--at <deployment>', 'where the apis run', several, [])
      .addOption(new Option('--as <form>', 'the form of the output').choices(['text', 'json']).default('text'))
      .action((files: readonly string[], options: Options) =>
        run((io) => Promise.resolve(execute(files, options, io))),
      );
    examples(sub, 'batharon check', 'batharon check chains/berth.chain.yaml', 'batharon check --as json');
  },
};

function execute(given: readonly string[], options: Options, io: Io): ExitStatus {
  const workspace = openProject(io.cwd);
  const at = readAt(options.at, io.environment, workspace.project);
  const files = given.length > 0 ? given : findChains(workspace.folder).map((file) => path.relative(io.cwd, file));
  const store = openSecrets(workspace.folder, io.environment);
  const found: Diagnostic[] = [...workspace.diagnostics];
  for (const file of files) {
    const { chain, diagnostics } = loadChain(workspace, file, at);
    found.push(...diagnostics);
    if (chain) found.push(...secretsFor(workspace, chain, at, store).diagnostics);
  }
  const all = sorted(found);
  if (options.as === 'json') io.exit.out(`${JSON.stringify(all.map(asJson), null, 2)}\n`);
  else io.exit.out(asText(all, files.length, io));
  return hasErrors(all) ? 2 : 0;
}

function asText(found: readonly Diagnostic[], files: number, io: Io): string {
  const palette = paletteOf(io.colors);
  const where = `${counted(files, 'chain')} and the project file`;
  if (found.length === 0) return `${palette.good('no mistakes found')} in ${where}\n`;
  return `${showDiagnostics(found, palette, io.columns)}\n${tally(found)} in ${where}\n`;
}

function asJson({ code, level, message, advice, correction, file, range }: Diagnostic): object {
  const start = positionOf(file, range[0]);
  const end = positionOf(file, range[1]);
  return {
    code,
    level,
    message,
    advice,
    correction,
    file: file.path,
    line: start.line,
    column: start.column,
    endLine: end.line,
    endColumn: end.column,
  };
}
