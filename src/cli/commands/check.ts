import { readAt } from '../../runner/deployments.ts';
import type { Command } from 'commander';
import path from 'node:path';
import { expectMuchWork } from '../../adapters/compiler.ts';
import { findChains } from '../../adapters/project-files.ts';
import { projectSecrets } from '../../runner/project-secrets.ts';
import { correctedLine, fixed } from '../../core/diagnostics/fix.ts';
import { hasErrors, positionOf, sorted, type Diagnostic } from '../../core/diagnostics/source.ts';
import { sarifLog } from '../../core/report/sarif.ts';
import { counted } from '../../core/value/show.ts';
import type { ExitStatus, Io } from '../io.ts';
import { secretsFor } from '../../runner/endpoints.ts';
import { secretsWarnings } from '../../runner/secrets-warnings.ts';
import { VERSION } from '../../runner/version.ts';
import { loadChain, openProject } from '../../runner/workspace.ts';
import { showDiagnostics, tally } from '../view/diagnostics.ts';
import { paletteOf } from '../view/palette.ts';
import { examples, several, type CommandModule } from './definition.ts';
import { formOption } from './options.ts';

type Options = Readonly<{ at: readonly string[]; as: 'text' | 'json' | 'sarif'; fix?: boolean }>;

/** `check [FILES]`: everything that can be known to be wrong before anything is sent. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub, 'sarif')
      .argument('[files...]', 'chain files (default: all of the project)')
      .option(
        '--at <deployment>',
        'deployment to check against: live, or harbour=live for one API (repeatable)',
        several,
        [],
      )
      .option('--fix', 'apply the corrections that are certain')
      .action((files: readonly string[], options: Options) =>
        run((io) => Promise.resolve(execute(files, options, io))),
      );
    examples(
      sub,
      'batharon check',
      'batharon check chains/berth.chain.yaml --fix',
      'batharon check --as json',
      'batharon check --as sarif > mistakes.sarif',
    );
  },
};

function execute(given: readonly string[], options: Options, io: Io): ExitStatus {
  let { all, files } = checkAll(given, options, io);
  // A correction can bring the next mistake of its line to light.
  for (let round = 0; options.fix && round < MAX_ROUNDS && all.some(({ fix }) => fix?.sure); round++) {
    writeFixes(all, io);
    ({ all, files } = checkAll(given, options, io));
  }
  if (options.as === 'json') io.exit.out(`${JSON.stringify(all.map(asJson), null, 2)}\n`);
  else if (options.as === 'sarif')
    io.exit.out(`${JSON.stringify(sarifLog(all, { name: 'batharon', version: VERSION }), null, 2)}\n`);
  else io.exit.out(asText(all, files, io));
  return hasErrors(all) ? 2 : 0;
}

const MAX_ROUNDS = 10;
const MANY_FILES = 20;

function checkAll(
  given: readonly string[],
  options: Options,
  io: Io,
): Readonly<{ all: readonly Diagnostic[]; files: number }> {
  const workspace = openProject(io.cwd);
  const at = readAt(options, io.environment, workspace.project);
  const files = given.length > 0 ? given : findChains(workspace.folder).map((file) => path.relative(io.cwd, file));
  if (files.length > MANY_FILES) expectMuchWork();
  const store = projectSecrets(workspace, io);
  const found: Diagnostic[] = [...workspace.diagnostics, ...secretsWarnings(workspace, store)];
  for (const file of files) {
    const { chain, diagnostics, used } = loadChain(workspace, file, at);
    found.push(...diagnostics);
    if (chain) found.push(...secretsFor(workspace, [chain, ...used.chains], at, store).diagnostics);
  }
  return { all: sorted(found), files: files.length };
}

/** Writes each file with its corrections, and says which. */
function writeFixes(all: readonly Diagnostic[], io: Io): void {
  for (const file of new Map(all.map((each) => [each.file.path, each.file])).values()) {
    const { text, count } = fixed(file, all);
    if (count === 0) continue;
    io.exit.rewriteFile(path.resolve(io.cwd, file.path), text);
    io.exit.err(`corrected  ${file.path}: ${counted(count, 'place')}\n`);
  }
}

function asText(found: readonly Diagnostic[], files: number, io: Io): string {
  const palette = paletteOf(io.colors);
  const where = `${counted(files, 'chain')} and the project file`;
  if (found.length === 0) return `${palette.good('no problems found')} in ${where}\n`;
  return `${showDiagnostics(found, palette, io.columns)}\n${tally(found)} in ${where}\n`;
}

function asJson({ code, level, message, advice, file, range, ...rest }: Diagnostic): object {
  const start = positionOf(file, range[0]);
  const end = positionOf(file, range[1]);
  return {
    code,
    level,
    message,
    advice,
    correctedLine: correctedLine({ code, level, message, file, range, ...rest }),
    file: file.path,
    line: start.line,
    column: start.column,
    endLine: end.line,
    endColumn: end.column,
  };
}
