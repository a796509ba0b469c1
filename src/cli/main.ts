import { Command, CommanderError } from 'commander';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { onDamagedJournal } from '../adapters/journal-reader.ts';
import { openSecrets } from '../adapters/secrets.ts';
import { findProject, SECRETS_FILE } from '../adapters/project-files.ts';
import { Interrupted } from '../core/engine/asking.ts';
import { RunUnderWay } from '../core/journal/run-under-way.ts';
import { nearest } from '../core/diagnostics/suggest.ts';
import { givenExamples, type CommandEntry } from './commands/definition.ts';
import { commandEntries } from './commands/list.ts';
import { takeGlobalOptions, type GlobalOptions } from './global-options.ts';
import { helpOfCommand, helpOfProgram } from './help.ts';
import type { ExitStatus, Io } from './io.ts';
import { CommandError } from '../runner/command-error.ts';
import { VERSION } from '../runner/version.ts';
import { showFailure } from './view/failure.ts';
import { paletteOf } from './view/palette.ts';

/** Runs a command line. Gives the exit status; ends nothing by itself. */
export async function main(given: readonly string[], around: Io): Promise<ExitStatus> {
  let status: ExitStatus = 0;
  let io = around;
  onDamagedJournal((file, line) => {
    const where = `${path.relative(around.cwd, file)}${line === undefined ? '' : `:${line}`}`;
    around.exit.err(`note: ${where} is damaged; what cannot be read is passed over\n`);
  });
  try {
    const { rest: argv, global } = takeGlobalOptions(given);
    io = withGlobals(around, global);
    const program = createProgram(io);
    const word = argv.find((each) => !each.startsWith('-'));
    const entry = commandEntries.find(({ name }) => name === word);
    if (entry) {
      await define(
        program,
        entry,
        async (execute) => {
          if (entry.readsSecrets !== false) maskSecrets(io);
          status = await execute(io);
        },
        io,
      );
    } else {
      if (word !== undefined && word !== 'help') throw unknownCommand(word);
      program.action(async () => {
        if (argv.length > 0 || findProject(io.cwd) === undefined) return program.outputHelp();
        status = await (await import('./project-status.ts')).showStanding(io);
      });
    }
    await program.parseAsync([...argv], { from: 'user' });
  } catch (error) {
    return exitOfError(error, io);
  }
  return status;
}

/** What a command ended with, told; what is a mistake of ours is thrown on. */
function exitOfError(error: unknown, io: Io): ExitStatus {
  if (error instanceof Interrupted) return 130;
  if (error instanceof RunUnderWay) {
    io.exit.err(`error run-under-way: ${error.message}\n`);
    return 2;
  }
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
  const fault = error instanceof CommandError ? error : fileFault(error);
  if (!fault) throw error;
  tell(fault, io);
  return fault.exit;
}

function unknownCommand(word: string): CommandError {
  const near = nearest(
    word,
    commandEntries.map(({ name }) => name),
  );
  const advice = near ? `Did you mean "${near}"?` : 'To list the commands: batharon --help';
  return new CommandError('invalid-option', `Unknown command "${word}"`, advice);
}

function tell({ code, message, advice, failure }: CommandError, { exit, colors, columns }: Io): void {
  const palette = paletteOf(colors);
  if (failure) exit.err(`${showFailure(failure, palette, columns)}\n\n`);
  exit.err(`${palette.bad(`error ${code}`)}: ${message}\n${advice === undefined ? '' : `  ${advice}\n`}`);
}

/** What the operating system refused (a full disk, no permission, a file where a folder is meant) is no mistake of ours. */
function fileFault(error: unknown): CommandError | undefined {
  const { code, syscall, path } = error as NodeJS.ErrnoException;
  if (code === undefined || syscall === undefined || path === undefined) return undefined;
  return new CommandError(
    'not-writable',
    `The system refused to ${syscall} ${path} (${code})`,
    'Runs are recorded in .batharon/ next to batharon.yaml. The folder must be writable and the disk must have space left.',
  );
}

/** All secrets of the project are masked in every command, whatever it reads. */
function maskSecrets({ cwd, environment, exit }: Io): void {
  const folder = findProject(cwd);
  if (folder === undefined || !existsSync(path.join(folder, SECRETS_FILE))) return;
  const store = openSecrets(folder, environment);
  for (const [name, value] of store.all()) exit.masker.add(name, value, store.isCommon(value));
}

function createProgram(io: Io): Command {
  return new Command('batharon')
    .version(VERSION, '--version', 'print the version')
    .helpOption('-h, --help', 'show help')
    .helpCommand(false)
    .exitOverride()
    .configureHelp({ formatHelp: () => helpOfProgram(io.columns) })
    .configureOutput({
      writeOut: io.exit.out,
      writeErr: io.exit.err,
      getOutHelpWidth: () => io.columns,
      outputError: (text, write) => write(`error invalid-option: ${asSentence(text.replace(/^error: /, ''))}`),
    });
}

/** Commander's words in our form: a capital at the start, names in double quotes. */
function asSentence(text: string): string {
  return `${text[0]!.toUpperCase()}${text.slice(1)}`
    .replaceAll("'", '"')
    .replace(/\n\(?(Did you mean .*?\?)\)?\n/, '\n  $1\n');
}

async function define(
  program: Command,
  entry: CommandEntry,
  run: (execute: (io: Io) => Promise<ExitStatus>) => Promise<void>,
  io: Io,
): Promise<void> {
  const { command } = await entry.load();
  const sub = program.command(entry.name);
  sub.configureHelp({ formatHelp: (own, helper) => helpOfCommand(own, helper, entry, givenExamples(own), io.columns) });
  command.define(sub, run, commandEntries);
}

/** What the global options say of the io; they win over the environment, which was read when it was made. */
function withGlobals(io: Io, { color, prompt, trustedOnly }: GlobalOptions): Io {
  const colors = color === 'auto' ? io.colors : color === 'always';
  return { ...io, colors, mayAsk: io.mayAsk && prompt, trustedOnly: io.trustedOnly || trustedOnly };
}
