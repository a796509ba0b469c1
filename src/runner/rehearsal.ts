import { hasErrors, sorted, type Diagnostic } from '../core/diagnostics/source.ts';
import type { EventOf } from '../core/journal/events.ts';
import { readAt } from './deployments.ts';
import { secretsFor } from './endpoints.ts';
import type { InputOptions } from './given-inputs.ts';
import { commandInputs } from './inputs.ts';
import { namesOfSecrets } from './secret-values.ts';
import { projectSecrets } from './project-secrets.ts';
import { whereOf, recordedInputs } from './recorded-run.ts';
import { loadChain, type Workspace } from './workspace.ts';
import type { RecordedRun } from '../adapters/journal-reader.ts';
import type { Recorded } from '../core/engine/recorded.ts';
import { runChain, type RunResult } from '../core/engine/run-chain.ts';
import { noStore } from '../core/journal/no-store.ts';
import { Recorder, type Listener } from '../core/journal/recorder.ts';
import type { Clock } from '../core/ports.ts';
import type { Caller } from './caller.ts';
import { rememberedAt } from './memory.ts';
import type { UnsentPlan } from './run-plan.ts';
import { unsentRequest } from './unsent-request.ts';
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
  caller: Caller,
): Promise<RunResult> {
  const [first] = record.journal;
  if (first?.type !== 'run') throw new Error('A record begins with its run');
  const clock = timeless(first.at);
  const recorder = new Recorder(clock, caller.exit.masker, noStore(), listeners);
  recorder.record({ ...first, run: `rehearsal of ${record.id}` });
  const request = unsentRequest({ ...plan, host: withoutFiles(plan.host) }, recorder, clock, caller);
  return runChain({ ...request, id: record.id, recorded, remembered: rememberedAt(first) });
}

/** A rehearsal that can begin; without a plan where something is wrong. */
type PreparedRehearsal = Readonly<{ plan: UnsentPlan | undefined; diagnostics: readonly Diagnostic[] }>;

/** Reads the chain as it is now, for the inputs, the time and the place of the recorded run. */
export async function prepareRehearsal(
  file: string,
  options: InputOptions,
  workspace: Workspace,
  record: RecordedRun,
  first: EventOf<'run'>,
  caller: Caller,
): Promise<PreparedRehearsal> {
  const at = readAt(whereOf(first), caller.environment, workspace.project);
  const { chain, diagnostics, used } = loadChain(workspace, file, at);
  const found = [...workspace.diagnostics, ...diagnostics];
  const checked = hasErrors(found) ? undefined : chain;
  const store = projectSecrets(workspace, caller);
  const asked = chain ? namesOfSecrets(secretsFor(workspace, [chain, ...used.chains], at, store).values) : [];
  const secrets = Object.fromEntries(asked.map((name) => [name, `\u2039${name}\u203a`]));
  const given = { ...options, seed: first.seed, now: first.now ?? new Date(first.at).toISOString() };
  const recorded = recordedInputs(first, record, false);
  const {
    inputs,
    host,
    diagnostics: wrong,
  } = await commandInputs(checked, file, secrets, given, workspace, caller, {
    recorded,
  });
  const all = sorted([...found, ...wrong]);
  if (!chain || !inputs || hasErrors(all)) return { plan: undefined, diagnostics: all };
  return { plan: { workspace, chain, used, at, inputs, host, secrets }, diagnostics: all };
}
