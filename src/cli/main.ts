import { Command, CommanderError, Option } from 'commander';
import { findProject } from '../adapters/project-files.ts';
import { nearest } from '../core/diagnostics/suggest.ts';
import { commandEntries, commandGroups, type CommandEntry } from './commands/list.ts';
import type { ExitStatus, Io } from './io.ts';
import { UsageFault } from './usage-fault.ts';
import { VERSION } from './version.ts';
import { paletteOf } from './view/palette.ts';

/** Runs a command line. Gives the exit status; ends nothing by itself. */
export async function main(argv: readonly string[], io: Io): Promise<ExitStatus> {
  let status: ExitStatus = 0;
  const program = createProgram(io);
  const word = argv.find((each) => !each.startsWith('-'));
  const entry = commandEntries.find(({ name }) => name === word);
  const withColors = coloredBy(argv, io);
  try {
    if (word !== undefined && !entry && word !== 'help') {
      const near = nearest(
        word,
        commandEntries.map(({ name }) => name),
      );
      throw new UsageFault(
        'invalid-option',
        `Unknown command "${word}"`,
        near ? `Did you mean "${near}"?` : 'To list the commands: batharon --help',
      );
    }
    if (entry) {
      await define(program, entry, async (execute) => {
        status = await execute(withColors);
      });
    } else {
      program.action(async () => {
        if (argv.length > 0 || findProject(io.cwd) === undefined) return program.outputHelp();
        status = (await import('./standing.ts')).showStanding(withColors);
      });
    }
    await program.parseAsync([...argv], { from: 'user' });
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    const fault = error instanceof UsageFault ? error : fileFault(error);
    if (!fault) throw error;
    const { bad } = paletteOf(withColors.colors);
    io.exit.err(
      `${bad(`error ${fault.code}`)}: ${fault.message}
${
  fault.advice === undefined
    ? ''
    : `  ${fault.advice}
`
}`,
    );
    return fault.exit;
  }
  return status;
}

/** What the operating system refused (a full disk, no permission, a file where a folder is meant) is no mistake of ours. */
function fileFault(error: unknown): UsageFault | undefined {
  const { code, syscall, path } = error as NodeJS.ErrnoException;
  if (code === undefined || syscall === undefined || path === undefined) return undefined;
  return new UsageFault(
    'not-writable',
    `The system refused to ${syscall} ${path} (${code})`,
    'Runs are recorded in .batharon/ next to batharon.yaml. The folder must be writable and the disk must have space left.',
  );
}

function createProgram(io: Io): Command {
  const program = new Command('batharon')
    .description('Specify, run and check chains of HTTP API requests.')
    .usage('COMMAND [OPTIONS]')
    .version(VERSION, '--version', 'print the version')
    .helpOption('-h, --help', 'show help')
    .helpCommand(false)
    .addOption(new Option('--color <when>', 'when to use colour').choices(['auto', 'always', 'never']).default('auto'))
    .option('--debug', 'print the stack trace of an internal error')
    .exitOverride()
    .configureOutput({
      writeOut: io.exit.out,
      writeErr: io.exit.err,
      getOutHelpWidth: () => io.columns,
      outputError: (text, write) => write(text.replace(/^error: /, 'error invalid-option: ')),
    });
  program.addHelpText('after', helpOfCommands());
  return program;
}

/** The commands by groups; made from the static table, so that help loads no command. */
function helpOfCommands(): string {
  const groups = commandGroups.map(({ heading, commands }) => {
    const lines = commands.map(({ name, summary, sends }) => `  ${name.padEnd(10)} ${sends.padEnd(6)} ${summary}`);
    return `${heading}:\n${lines.join('\n')}`;
  });
  return `\n${groups.join('\n\n')}\n\nMore about each: batharon COMMAND --help`;
}

async function define(
  program: Command,
  entry: CommandEntry,
  run: (execute: (io: Io) => Promise<ExitStatus>) => Promise<void>,
): Promise<void> {
  const { command } = await entry.load();
  const summary = `${entry.summary} (${entry.sends})`;
  const sub = program.command(entry.name).description(`${summary[0]!.toUpperCase()}${summary.slice(1)}`);
  sub.addOption(
    new Option('--color <when>', 'when to use colour').choices(['auto', 'always', 'never']).default('auto'),
  );
  sub.option('--debug', 'print the stack trace of an internal error');
  command.define(sub, run);
}

/** `--color` wins over the environment, which was read when the io was made. */
function coloredBy(argv: readonly string[], io: Io): Io {
  const at = argv.findIndex((each) => each === '--color' || each.startsWith('--color='));
  if (at < 0) return io;
  const when = argv[at]!.includes('=') ? argv[at]!.slice('--color='.length) : argv[at + 1];
  return when === 'always' ? { ...io, colors: true } : when === 'never' ? { ...io, colors: false } : io;
}
