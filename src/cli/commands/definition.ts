import type { Command } from 'commander';
import type { ExitStatus, Io } from '../io.ts';

/**
 * One command: a file that exports this as `command`. It adds its arguments and options to the Commander command made
 * for it, and says what running it means.
 */
export type CommandModule = Readonly<{
  /** Adds arguments, options and examples; `run` is what Commander calls, `entries` are all commands. */
  define(
    command: Command,
    run: (execute: (io: Io) => Promise<ExitStatus>) => Promise<void>,
    entries: readonly CommandEntry[],
  ): void;
}>;

/** A command as the help lists it; its code is loaded when it is called. */
export type CommandEntry = Readonly<{
  name: string;
  summary: string;
  /** In one word, whether the command sends requests. */
  uses: 'network' | 'local';
  /** `false`: not even to mask them, since nothing that it shows can hold one. */
  readsSecrets?: false;
  load(): Promise<{ command: CommandModule }>;
}>;

const examplesOf = new WeakMap<Command, readonly string[]>();

/** Examples to paste, at the end of a command's help. */
export function examples(command: Command, ...lines: readonly string[]): void {
  examplesOf.set(command, lines);
}

/** The examples of a command. */
export function givenExamples(command: Command): readonly string[] {
  return examplesOf.get(command) ?? [];
}

/** Collects the values of an option that may be given several times. */
export function several(value: string, before: readonly string[] = []): readonly string[] {
  return [...before, value];
}
