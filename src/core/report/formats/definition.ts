import type { Picture } from '../../picture/picture.ts';
import type { Coverage } from '../coverage.ts';
import type { RunSummary } from '../run-summary.ts';

/** A form of report: one file, one entry in the list. It reads runs that were told, and nothing else. */
export type ReportFormat = Readonly<{
  kind: string;
  about: string;
  /** Its text in pieces. `pictures` are those of the chains, by run, where a chain is still what was run. */
  render(
    runs: readonly RunSummary[],
    tool: string,
    coverage: readonly Coverage[],
    pictures?: ReadonlyMap<string, Picture>,
  ): Iterable<string>;
}>;
