import { CommandError } from '../runner/command-error.ts';
import { utf8Text } from '../core/value/utf8.ts';
import { isatty } from 'node:tty';
import { createMaskedOutput } from '../adapters/masked-output.ts';
import type { Io } from './io.ts';
import { main } from './main.ts';
import { VERSION } from '../runner/version.ts';

/** Runs the command line of this process. What the process is (streams, signals, environment) is read here and nowhere else. */
export async function start(): Promise<void> {
  const exit = createMaskedOutput();
  const argv = process.argv.slice(2);
  const interrupts: (() => void)[] = [];
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) {
    process.on(signal, () => {
      if (interrupts.length === 0) process.exit(130);
      for (const listener of interrupts) listener();
    });
  }
  // Nobody sees what comes next: a run pauses, as at the first wish to end.
  exit.onOutGone(() => setImmediate(() => interrupts.forEach((listener) => listener())));
  const { env } = process;
  const [outIsTerminal, errIsTerminal] = [isatty(1), isatty(2)];
  // Asking for a stream loads all of Node's streams and sockets, so only a terminal is asked.
  const columnsNow = () =>
    (outIsTerminal ? process.stdout.columns : errIsTerminal ? process.stderr.columns : 0) ||
    Number(env['COLUMNS']) ||
    100;
  const io: Io = {
    exit,
    cwd: process.cwd(),
    environment: env,
    inIsTerminal: isatty(0),
    outIsTerminal,
    errIsTerminal,
    mayAsk: isatty(0) && errIsTerminal,
    trustedOnly: (env['BATHARON_TRUSTED_ONLY'] ?? '') !== '' && env['BATHARON_TRUSTED_ONLY'] !== '0',
    columns: columnsNow(),
    columnsNow,
    colors: env['NO_COLOR'] ? false : env['FORCE_COLOR'] ? env['FORCE_COLOR'] !== '0' : outIsTerminal,
    inputChunks: () => process.stdin as AsyncIterable<Buffer>,
    readInput: async () => {
      const chunks: Buffer[] = [];
      for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
      const text = utf8Text(Buffer.concat(chunks));
      if (text !== undefined) return text;
      throw new CommandError('not-utf8', 'Standard input is not UTF-8', 'Convert it to UTF-8 first.');
    },
    progress: (text) => {
      if (errIsTerminal) exit.err(text);
    },
    onInterrupt: (listener) => interrupts.push(listener),
  };
  try {
    process.exitCode = await main(argv, io);
  } catch (error) {
    const { message, stack } = error as Error;
    exit.err(
      `error internal: ${message}\n  This is a bug in batharon ${VERSION}. Please report it with the command that you ran; --debug shows the stack trace.\n`,
    );
    if (argv.includes('--debug')) exit.err(`${stack}\n`);
    process.exitCode = 4;
  }
}
