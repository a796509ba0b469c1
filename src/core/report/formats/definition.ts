import type { ToldRun } from '../told-run.ts';

/** A form of report: one file, one entry in the list. It reads runs that were told, and nothing else. */
export type ReportFormat = Readonly<{
  kind: string;
  about: string;
  /** Its text in pieces. */
  render(runs: readonly ToldRun[], tool: string): Iterable<string>;
}>;
