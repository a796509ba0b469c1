import type { RecordedRun } from '../adapters/journal-reader.ts';
import { givenOnCommandLine, type Given } from '../core/chain/inputs.ts';
import type { EventOf } from '../core/journal/events.ts';
import { fromStored } from '../core/journal/stored.ts';
import { bodyJson } from './record.ts';

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
