import type { MaskedOutput } from '../adapters/masked-output.ts';

/** What a run has of whoever starts it: a person at a terminal, a program, a test. */
export type Caller = Readonly<{
  /** Where text and files leave, masked. */
  exit: MaskedOutput;
  cwd: string;
  environment: NodeJS.ProcessEnv;
  /** Whether a question may be asked: there is a terminal, and nobody forbade it. */
  mayAsk: boolean;
  /** Whether secrets go only where somebody has agreed to it. */
  trustedOnly: boolean;
  /** Says what is under way, where somebody watches. */
  progress(text: string): void;
  /** All of standard input, as text; or piece by piece. */
  readInput(): Promise<string>;
  inputChunks(): AsyncIterable<Uint8Array>;
  /** Calls back at each wish to end. */
  onInterrupt(listener: () => void): void;
}>;
