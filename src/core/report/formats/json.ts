import { failureLines, reasonOf, stableName, type ToldRun } from '../told-run.ts';
import type { ReportFormat } from './definition.ts';

/** Everything that the other forms tell, for programs. */
export const json: ReportFormat = {
  kind: 'json',
  about: 'runs, calls and failures, for programs',
  render: (runs, tool) => `${JSON.stringify({ tool, runs: runs.map(plain) }, null, 2)}\n`,
};

function plain(run: ToldRun): object {
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
    gives: run.gives,
    files: run.files.map(({ path, op, rows, after }) => ({ path, op, rows: rows ?? null, size: after.size })),
    notes: run.notes.map(({ code, level, message }) => ({ code, level, message })),
    calls: run.calls.map((call) => ({
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
    })),
    failures: run.others.map(({ address, name, failure }) => ({ address, name, reason: reasonOf(failure) })),
  };
}
