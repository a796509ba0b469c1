import type { Coverage } from '../coverage.ts';
import type { RunSummary } from '../run-summary.ts';

/** A form of report: one file, one entry in the list. It reads runs that were told, and nothing else. */
export type ReportFormat = Readonly<{
  kind: string;
  about: string;
  /** Its text in pieces. */
  render(runs: readonly RunSummary[], tool: string, coverage: readonly Coverage[]): Iterable<string>;
}>;
