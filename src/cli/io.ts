import type { MaskedOutput } from '../adapters/masked-output.ts';

/** What a command has of the process around it. Tests and the bin file make it; commands read nothing else. */
export type Io = Readonly<{
  exit: MaskedOutput;
  cwd: string;
  environment: NodeJS.ProcessEnv;
  /** Whether standard input, standard output and standard error are terminals, and how wide they are. */
  inIsTerminal: boolean;
  outIsTerminal: boolean;
  errIsTerminal: boolean;
  /** Whether a question may be asked: there is a terminal, and nobody forbade it. */
  mayAsk: boolean;
  /** Whether secrets go only where somebody has agreed to it. */
  trustedOnly: boolean;
  columns: number;
  /** The same as it is now: a window can be made narrower. */
  columnsNow(): number;
  colors: boolean;
  /** All of standard input, as text; or piece by piece. */
  readInput(): Promise<string>;
  inputChunks(): AsyncIterable<Uint8Array>;
  /** Calls back at each wish to end: SIGINT, SIGTERM, SIGHUP. */
  onInterrupt(listener: () => void): void;
}>;

export type ExitStatus = number;
