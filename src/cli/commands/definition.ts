import type { Command } from 'commander';
import type { ExitStatus, Io } from '../io.ts';

/**
 * One command: a file that exports this as `command`. It adds its arguments and options to the Commander command made
 * for it, and says what running it means.
 */
export type CommandModule = Readonly<{
  /** Adds arguments, options and examples; `run` is what Commander calls. */
  define(command: Command, run: (execute: (io: Io) => Promise<ExitStatus>) => Promise<void>): void;
}>;

/** Examples to paste, at the end of a command's help. */
export function examples(command: Command, ...lines: readonly string[]): void {
  command.addHelpText('after', `\nExamples:\n${lines.map((line) => `  ${line}`).join('\n')}`);
}

/** Collects the values of an option that may be given several times. */
export function several(value: string, before: readonly string[] = []): readonly string[] {
  return [...before, value];
}
