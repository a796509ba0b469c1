import type { Share } from '../pacing/rate-limit.ts';

/** What may be said of how a run goes; it goes through unchanged from the command line or a program to the engine. */
export type RunSettings = Readonly<{
  /** A part of the items of each outermost loop: the first so many, or so many spread over it. */
  part?: Part | undefined;
  /** The part of a divided run that this one is. */
  slice?: Slice | undefined;
  /** The part of every rate limit that is taken. */
  share?: Share | undefined;
  /** How far it goes, where that is not to its end. */
  goal?: Goal | undefined;
  /** Milliseconds after which no further request begins. */
  withinMs?: number | undefined;
  /** Whether a spent quota is waited for instead of pausing the run. */
  waitForQuota?: boolean | undefined;
  /** Whether a call that needed several attempts counts as failed. */
  strict?: boolean | undefined;
  /** Whether only undos and cleanup are done. */
  cleanupOnly?: boolean | undefined;
  /** Whether undos and cleanup are left for later, because the chain is about to be run again. */
  watched?: boolean | undefined;
}>;

/** The call up to which a run goes, and for which items; alone, it is the only one that is sent. */
export type Goal = Readonly<{ call: string; items: readonly number[]; isAlone: boolean }>;

/** One of so many parts of a run, which several machines do. */
export type Slice = Readonly<{
  part: number;
  of: number;
  /** Whether a person says that it is the last to end. */
  isLast?: boolean | undefined;
  /** What it is a slice of, where slices are taken from all that there are. */
  division?: string | undefined;
}>;

export type Part = Readonly<{ first: number }> | Readonly<{ sample: number }>;
