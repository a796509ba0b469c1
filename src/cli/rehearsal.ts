import type { RecordedRun } from '../adapters/journal-reader.ts';
import type { Recorded } from '../core/engine/recorded.ts';
import { runChain, type RunResult } from '../core/engine/run-chain.ts';
import { noStore } from '../core/journal/no-store.ts';
import { Recorder, type Listener } from '../core/journal/recorder.ts';
import { fromStored } from '../core/journal/stored.ts';
import type { Clock } from '../core/ports.ts';
import type { Io } from './io.ts';
import { unsentRequest, type UnsentPlan } from './start-run.ts';
import { withoutFiles } from './without-files.ts';

/** A clock on which no time passes: what was waited for in the recording is not waited for again. */
const timeless = (nowMs: number): Clock => ({ nowMs: () => nowMs, monotonicMs: () => 0, sleep: async () => {} });

/**
 * Runs a chain on recorded responses: no socket is opened, no file written, no record made. What is secret is stood for by
 * its mask.
 */
export function rehearse(
  plan: UnsentPlan,
  record: RecordedRun,
  recorded: Recorded,
  listeners: readonly Listener[],
  io: Io,
): Promise<RunResult> {
  const [first] = record.journal;
  if (first?.type !== 'run') throw new Error('A record begins with its run');
  const clock = timeless(first.at);
  const recorder = new Recorder(clock, io.exit.masker, noStore(), listeners);
  recorder.record({ ...first, run: `rehearsal of ${record.id}` });
  const remembered = Object.fromEntries(
    Object.entries(first.remembered).map(([name, stored]) => [name, fromStored(stored) ?? null]),
  );
  const request = unsentRequest({ ...plan, host: withoutFiles(plan.host) }, recorder, clock, io);
  return runChain({ ...request, id: record.id, recorded, remembered });
}
