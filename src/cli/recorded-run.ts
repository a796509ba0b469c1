import type { RecordedRun } from '../adapters/journal-reader.ts';
import { givenOnCommandLine, type Given } from '../core/chain/inputs.ts';
import { CallRecords } from '../core/journal/call-records.ts';
import type { Kept } from '../core/engine/call/replay.ts';
import type { EventOf } from '../core/journal/events.ts';
import type { GoingOn } from './prepared-run.ts';
import { fromStored } from '../core/journal/stored.ts';
import { bodyJson } from './record.ts';
import { UsageFault } from './usage-fault.ts';

/** Where the apis of a recorded run were, as `--at` says it. */
export function deploymentsOf({ apis }: EventOf<'run'>): readonly string[] {
  return apis.flatMap(({ name, deployment }) => (deployment === null ? [] : [`${name}=${deployment}`]));
}

/** Inputs as they were given; what is secret is in no record, and is asked for again. */
export function recordedInputs({ inputs }: EventOf<'run'>, record: RecordedRun): ReadonlyMap<string, Given> {
  const given = new Map<string, Given>();
  for (const [name, stored] of Object.entries(inputs)) {
    const { source } = givenOnCommandLine(name, '');
    const isTime = 'as' in stored && (stored.as === 'duration' || stored.as === 'date-time');
    const value = isTime ? stored.text : 'body' in stored ? bodyJson(record, stored.body) : fromStored(stored);
    if (value !== undefined && !('secret' in stored)) given.set(name, { value, source });
  }
  return given;
}

/** What is recorded of a run's calls, for another one that begins or is rehearsed. */
export function keptOf({ id, events, body }: RecordedRun, mode: Kept['mode']): Kept {
  const nothing: ReadonlySet<string> = new Set();
  const records = new CallRecords(id, events, body);
  return { mode, records, isSameRun: false, failed: true, sent: nothing, notSent: nothing };
}

/** A new run that takes recorded responses: those of what has not changed, or of everything but one call. */
export function keepingRun(
  record: RecordedRun,
  mode: 'go-on' | 'only',
  call = '',
): Readonly<{ goingOn: GoingOn; seed: string }> {
  const [first] = record.events;
  if (first?.type !== 'run') throw new UsageFault('run-not-found', `${record.id} is no run of a chain`);
  const kept = keptOf(record, mode);
  const isAlone = mode === 'only';
  const heading = isAlone ? `only ${call}, the rest as in run ${record.id}` : `keeping what run ${record.id} did`;
  const inputs: ReadonlyMap<string, Given> = isAlone ? recordedInputs(first, record) : new Map<string, Given>();
  return { goingOn: { kept, record: undefined, inputs, heading }, seed: first.seed };
}
