import type { Stored } from '../core/journal/records.ts';
import type { GoingOn } from './prepare-run.ts';
import { createReadStream } from 'node:fs';
import path from 'node:path';
import type { RecordedRun } from '../adapters/journal-reader.ts';
import { linesOf } from '../adapters/lines-files.ts';
import { givenOnCommandLine, type Given } from '../core/chain/inputs.ts';
import { recordedCalls } from '../adapters/recorded-calls.ts';
import type { Recorded } from '../core/engine/recorded.ts';
import type { EventOf, JournalEvent } from '../core/journal/events.ts';
import { fromStored, LINES_TYPE } from '../core/journal/stored.ts';
import type { Maybe } from '../core/value/value.ts';
import { spilledListOf } from '../core/value/spilled-list.ts';
import { present } from '../core/value/present.ts';
import type { Where } from './deployments.ts';
import { bodyJson } from './record.ts';
import { CommandError } from './command-error.ts';

/** Where the apis of a recorded run were, as the command line says it. */
export function whereOf({ apis, options }: EventOf<'run'>): Where {
  const { setting } = options as { setting?: readonly string[] };
  const at = apis.flatMap(({ name, deployment }) => (deployment === null ? [] : [`${name}=${deployment}`]));
  return { at, ...present({ setting }) };
}

/** Inputs as they were given; what is secret is in no record, and is asked for again. */
export function recordedInputs(
  { inputs }: EventOf<'run'>,
  record: Pick<RecordedRun, 'folder' | 'body'>,
  /** Whether it is this very run that goes on. */
  isSameRun: boolean,
): ReadonlyMap<string, Given> {
  const given = new Map<string, Given>();
  for (const [name, stored] of Object.entries(inputs)) {
    // What held secrets is not recorded whole, and has to be given again.
    if ('body' in stored && stored.body.type === LINES_TYPE && stored.body.masked) continue;
    const { source } = givenOnCommandLine(name, '');
    const long = longTable(stored, record);
    if (long) {
      given.set(name, { ...longInput(name, long, isSameRun), source });
      continue;
    }
    const value = recordedValue(stored, record);
    if (value !== undefined && !('secret' in stored)) given.set(name, { value, source });
  }
  return given;
}

/** A long table of this very run, or for another run, which has a file of its own. */
function longInput(name: string, { path: file, length, file: ref }: LongTable, isSameRun: boolean) {
  if (!isSameRun) return { table: { name: `${name}.ndjson`, chunks: () => createReadStream(file) } };
  return { value: spilledListOf({ pieces: () => linesOf(file) }, length, ref) };
}

function recordedValue(stored: Stored, record: Pick<RecordedRun, 'body'>): Maybe {
  if ('as' in stored && (stored.as === 'duration' || stored.as === 'date-time')) return stored.text;
  return 'body' in stored ? bodyJson(record, stored.body) : fromStored(stored);
}

type LongTable = NonNullable<ReturnType<typeof longTable>>;

/** A table that stands in lines beside its journal. */
function longTable(stored: Stored, { folder }: Pick<RecordedRun, 'folder'>) {
  if (!('body' in stored) || stored.body.type !== LINES_TYPE || !('file' in stored.body)) return undefined;
  const { file, size, sha256 = '' } = stored.body;
  return { path: path.join(folder, file), length: stored.length ?? 0, file: { file, size, sha256 } };
}

/** What is said of a run that goes on only to tidy up. */
export const CLEANING_UP = 'undoing and cleaning up; nothing else is sent';

/** What is recorded of a run's calls, for another one that begins or is rehearsed. */
export function keptOf(
  record: RecordedRun,
  mode: Recorded['mode'],
  listener?: (event: JournalEvent) => void,
): Recorded {
  const records = recordedCalls(record, listener);
  return { mode, records, isSameRun: false, failed: true };
}

/** A new run that takes recorded responses: those of what has not changed, or of everything but one call. */
export function keepingRun(
  record: RecordedRun,
  mode: 'go-on' | 'only',
  call = '',
): Readonly<{ goingOn: GoingOn; seed: string }> {
  const [first] = record.journal;
  if (first?.type !== 'run') throw new CommandError('run-not-found', `${record.id} is not a run of a chain`);
  const isAlone = mode === 'only';
  const heading = isAlone ? `only ${call}; earlier values from run ${record.id}` : `reusing run ${record.id}`;
  const inputs: ReadonlyMap<string, Given> = isAlone ? recordedInputs(first, record, false) : new Map<string, Given>();
  return { goingOn: { recorded: keptOf(record, mode), record: undefined, inputs, heading }, seed: first.seed };
}
