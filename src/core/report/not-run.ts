import { lineOf, positionOf, type Diagnostic } from '../diagnostics/source.ts';
import { NO_CALLS } from './call-list.ts';
import type { Failure } from './failure.ts';
import type { RunSummary } from './run-summary.ts';

/** A chain that could not run, as reports tell it: no calls, and each error of its files as a failure. */
export function summaryOfUnrun(
  { name, file, atMs }: Readonly<{ name: string; file: string; atMs: number }>,
  diagnostics: readonly Diagnostic[],
): RunSummary {
  const errors = diagnostics.filter(({ level }) => level === 'error');
  return {
    id: '',
    name,
    file,
    where: '',
    startedMs: atMs,
    endedMs: atMs,
    outcome: 'failed',
    exit: 2,
    totals: undefined,
    calls: NO_CALLS,
    others: errors.map((each) => ({ address: '', name: each.code, failure: failureOf(each) })),
    groups: [],
    waits: [],
    notes: [],
    files: [],
    outputs: {},
    exchanges: [],
    hasOperations: false,
    exchange: () => undefined,
  };
}

function failureOf({ code, message, advice, file, range }: Diagnostic): Failure {
  const { line, column } = positionOf(file, range[0]);
  const place = { file: file.path, line, column, length: range[1] - range[0] };
  const said = advice === undefined ? {} : { advice };
  const problem = { code, message, ...said, source: place, line: lineOf(file, line) };
  return {
    step: code,
    item: undefined,
    items: '',
    hasExchange: false,
    place,
    sections: [{ kind: 'problem', problem, rows: [] }],
    tries: undefined,
    reply: undefined,
  };
}
