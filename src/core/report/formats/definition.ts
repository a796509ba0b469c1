import type { ToldRun } from '../told-run.ts';

/** A form of report: one file, one entry in the list. It reads runs that were told, and nothing else. */
export type ReportFormat = Readonly<{
  kind: string;
  about: string;
  render(runs: readonly ToldRun[], tool: string): string;
}>;
