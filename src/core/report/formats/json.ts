import { failureLines, reasonOf } from '../failure-lines.ts';
import type { Coverage, OperationCoverage } from '../coverage.ts';
import { stableName, type CallSummary } from '../call-summary.ts';
import { type RunSummary } from '../run-summary.ts';
import type { ReportFormat } from './definition.ts';

/** Everything that the other forms tell, for programs. */
export const json: ReportFormat = {
  kind: 'json',
  about: 'runs, calls and failures, for programs',
  render: function* (runs, tool, coverage) {
    yield `{"tool": ${JSON.stringify(tool)}, "runs": [`;
    for (const [i, run] of runs.entries()) {
      yield `${i === 0 ? '' : ','}\n${JSON.stringify(plain(run), null, 2).slice(0, -2)},\n  "calls": [`;
      let before = '\n    ';
      for (const call of run.calls) {
        yield `${before}${JSON.stringify(plainCall(call))}`;
        before = ',\n    ';
      }
      yield '\n  ]\n}';
    }
    yield coverage.length === 0
      ? '\n]}\n'
      : `\n], "contracts": ${JSON.stringify(coverage.map(plainCoverage), null, 2)}}\n`;
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
    failures: [...run.calls.failures.map((call) => ({ ...call, name: stableName(call) })), ...run.others].map(
      ({ address, name, failure }) => ({ address, name, reason: reasonOf(failure) }),
    ),
  };
}

function plainCoverage({ file, title, exercised, operations }: Coverage): object {
  const plainSeen = (all: OperationCoverage['members']) =>
    all.map(({ name, count, isDescribed }) => ({ name, count, described: isDescribed }));
  return {
    file,
    title,
    exercised,
    operations: operations.map(({ name, id, requests, statuses, parameters, members }) => ({
      operation: name,
      id: id ?? null,
      requests,
      ...(requests === 0
        ? {}
        : { statuses: plainSeen(statuses), parameters: plainSeen(parameters), members: plainSeen(members) }),
    })),
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
