import type { RunSource } from '../../core/report/run-source.ts';
import type { KnownRun } from './known-run.ts';
import type { Palette } from './palette.ts';
import type { Widths } from './widths.ts';

/** Where a run is shown, and how much of it. */
export type RunViewOptions = Readonly<{
  write(text: string): void;
  palette: Palette;
  widths: Widths;
  /** The run that printed commands name, where the last run of the project is another. */
  namedRun: string | undefined;
  quiet: boolean;
  /** Whether every step of every item and round has its line, and every request. */
  verbose: boolean;
  /** Whether lines may move: a terminal. */
  moves: boolean;
  /** Columns of the terminal as it is now. */
  columns(): number;
  /** What was recorded of the run before it was resumed, or is rehearsed. */
  before?: Readonly<{ known: KnownRun; source: RunSource }> | undefined;
  /** Another run of the project, from which responses may be taken over. */
  recorded?: (run: string) => RunSource | undefined;
  /** Calls back before anybody writes to the terminal. */
  beforeWriting(listener: () => void): void;
  /** Milliseconds since 1970, by the clock that stamps events. */
  nowMs(): number;
}>;
