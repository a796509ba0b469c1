import { failureLines, reasonOf } from '../failure-lines.ts';
import { stableName, type CallSummary, type RunSummary } from '../run-summary.ts';
import type { ReportFormat } from './definition.ts';

/** Everything that the other forms tell, for programs. */
export const json: ReportFormat = {
  kind: 'json',
  about: 'runs, calls and failures, for programs',
  render: function* (runs, tool) {
    yield `{"tool": ${JSON.stringify(tool)}, "runs": [`;
    for (const [i, run] of runs.entries()) {
      yield `${i === 0 ? '' : ','}\n${JSON.stringify(plain(run), null, 2).slice(0, -2)},\n  "calls": [`;
      for (const [k, call] of run.calls.entries())
        yield `${k === 0 ? '' : ','}\n    ${JSON.stringify(plainCall(call))}`;
      yield '\n  ]\n}';
    }
    yield '\n]}\n';
  },
};

function plain(run: RunSummary): object {
  return {
    run: run.id,
    chain: run.name,
    file: run.file,
    where: run.where,
    outcome: run.outcome,
    exit: run.exit ?? null,
    started: new Date(run.startedMs).toISOString(),
    ended: new Date(run.endedMs).toISOString(),
    totals: run.totals ?? null,
    outputs: run.outputs,
    files: run.files.map(({ path, op, rows, after }) => ({ path, op, rows: rows ?? null, size: after.size })),
    notes: run.notes.map(({ code, level, message }) => ({ code, level, message })),
    failures: [
      ...run.calls.flatMap((call) =>
        call.failure ? [{ ...call, name: stableName(call), failure: call.failure }] : [],
      ),
      ...run.others,
    ].map(({ address, name, failure }) => ({ address, name, reason: reasonOf(failure) })),
  };
}

function plainCall(call: CallSummary): object {
  return {
    address: call.address,
    name: stableName(call),
    outcome: call.outcome,
    method: call.method,
    url: call.url,
    status: call.status ?? null,
    ms: call.ms,
    waited_ms: call.waitedMs,
    tries: call.tries,
    requests: call.exchanges.length,
    ...(call.failure ? { reason: reasonOf(call.failure), details: failureLines(call.failure) } : {}),
  };
}
