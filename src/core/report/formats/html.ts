import type { ReportFormat } from './definition.ts';
import { pageOf } from './html/loader.ts';

/** One file that loads nothing and runs nothing: what failed and why, a timeline, every exchange to open. */
export const html: ReportFormat = {
  kind: 'html',
  about: 'a single page: failures, a timeline, every exchange',
  render: (runs, tool, coverage) => [pageOf(runs, tool, coverage)],
};
