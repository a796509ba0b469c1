import { csvStringify } from '../../packages.ts';
import { reasonOf } from '../told-run.ts';
import type { ReportFormat } from './definition.ts';

const COLUMNS = [
  'run',
  'chain',
  'address',
  'call',
  'item',
  'method',
  'url',
  'status',
  'outcome',
  'ms',
  'waited_ms',
  'tries',
  'requests',
  'ended',
  'reason',
];

/** A row for each call (RFC 4180). */
export const csv: ReportFormat = {
  kind: 'csv',
  about: 'a row for each call, for a spreadsheet',
  render: (runs) => {
    const rows = runs.flatMap(({ id, name, calls }) =>
      calls.map((call) => [
        id,
        name,
        call.address,
        call.name,
        call.item ?? '',
        call.method,
        call.url,
        call.status === undefined ? '' : String(call.status),
        call.outcome,
        String(call.ms),
        String(Math.round(call.waitedMs)),
        String(call.tries),
        String(call.exchanges.length),
        new Date(call.endedMs).toISOString(),
        call.failure ? reasonOf(call.failure) : '',
      ]),
    );
    return csvStringify().stringify([COLUMNS, ...rows]);
  },
};
