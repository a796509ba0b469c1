import { freshRecords } from '../adapters/fresh-records.ts';
import { runChain, type RunResult } from '../core/engine/run-chain.ts';
import type { Caller } from './caller.ts';
import { memoryFor } from './memory.ts';
import type { RunPlan } from './run-plan.ts';
import { withRecord } from './with-record.ts';

/** Runs a chain that was found free of errors, recording as it goes. */
export function startRun(plan: RunPlan, caller: Caller): Promise<RunResult & Readonly<{ run: string }>> {
  const { workspace } = plan;
  return withRecord(plan, caller, async (request, endpoints) => {
    const memory = memoryFor(plan, endpoints, caller);
    const remembered = request.remembered ?? {};
    const result = await runChain({ ...request, fresh: freshRecords(workspace.recordFolder, request.id) });
    if (result.remembers.size > 0 && !memory.write(remembered, result.remembers)) {
      caller.exit.err('warning over-limit: more than 1 MiB would have been remembered, so nothing was\n');
    }
    return { ...result, run: request.id };
  });
}
