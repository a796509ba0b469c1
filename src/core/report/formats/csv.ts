import { reasonOf } from '../failure-lines.ts';
import { csvText, neutral } from '../../value/csv.ts';
import { type CallSummary } from '../call-summary.ts';
import { type RunSummary } from '../run-summary.ts';
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

/** Rows that are written at a time: one by one takes three times as long. */
const BATCH = 500;

/** A row for each call (RFC 4180). */
export const csv: ReportFormat = {
  kind: 'csv',
  about: 'a row for each call, for spreadsheets',
  render: function* (runs) {
    yield csvText([COLUMNS]);
    for (const run of runs) {
      let rows: (readonly string[])[] = [];
      for (const call of run.calls) {
        if (rows.push(rowOf(call, run).map(neutral)) < BATCH) continue;
        yield csvText(rows);
        rows = [];
      }
      if (rows.length > 0) yield csvText(rows);
    }
  },
};

function rowOf(call: CallSummary, { id, name }: RunSummary): readonly string[] {
  return [
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
  ];
}
