import type { Caller } from '../runner/caller.ts';

/** What a command has of the process around it. Tests and the bin file make it; commands read nothing else. */
export type Io = Caller &
  Readonly<{
    /** Whether standard input, standard output and standard error are terminals, and how wide they are. */
    inIsTerminal: boolean;
    outIsTerminal: boolean;
    errIsTerminal: boolean;
    columns: number;
    /** The same as it is now: a window can be made narrower. */
    columnsNow(): number;
    colors: boolean;
  }>;

export type ExitStatus = number;
