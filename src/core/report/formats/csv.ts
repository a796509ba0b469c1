import { reasonOf } from '../failure-lines.ts';
import { csvText, neutral } from '../../value/csv.ts';
import { type CallSummary, type RunSummary } from '../run-summary.ts';
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
  about: 'a row for each call, for spreadsheets',
  render: function* (runs) {
    yield csvText([COLUMNS]);
    for (const run of runs) for (const call of run.calls) yield csvText([rowOf(call, run).map(neutral)]);
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
