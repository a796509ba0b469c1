import type { ReportFormat } from './definition.ts';
import { pageOf } from './html/loader.ts';

/** One file that loads nothing and runs nothing: what failed and why, the picture of the chain, times, a timeline, exchanges to open. */
export const html: ReportFormat = {
  kind: 'html',
  about: 'a single page: what failed and why, the chain as a picture, times, a timeline, exchanges',
  render: (runs, tool, coverage, pictures) => [pageOf(runs, tool, coverage, pictures)],
};
