import { listRuns, readRun } from '../adapters/journal-reader.ts';
import { recordedSlice } from '../core/engine/slices.ts';
import type { EventOf } from '../core/journal/events.ts';
import { dividedSource } from '../core/report/divided.ts';
import { DivisionFault } from '../core/report/division.ts';
import { sourceOf, type RunSource } from '../core/report/run-source.ts';
import { counted } from '../core/value/show.ts';
import { CommandError } from './command-error.ts';

/** A recorded run as it is reported: one that is a slice together with all others of the same run. */
export function reportedSource(recordFolder: string, id: string): RunSource | undefined {
  const record = readRun(recordFolder, id);
  const [first] = record?.journal ?? [];
  if (!record || first?.type !== 'run' || !recordedSlice(first)) return record && sourceOf(record);
  return wholeOf(recordFolder, first);
}

/** The runs of the slices of a run, in their order; nothing of one that is not divided. Throws `CommandError` where one is not here. */
export function sliceRuns(recordFolder: string, id: string): readonly string[] | undefined {
  const [first] = readRun(recordFolder, id)?.journal ?? [];
  if (first?.type !== 'run' || !recordedSlice(first)) return undefined;
  return allSlices(recordFolder, first).map((source) => source.id);
}

/** What slices of one run have in common. */
function divisionOf(first: EventOf<'run'>): string {
  const { chain, files, inputs, apis } = first;
  const { of, division = null } = recordedSlice(first)!;
  return JSON.stringify([chain, files, inputs, apis, of, division]);
}

/** All slices of a run as one. Throws `CommandError` where one is not here, or an item was done in two. */
function wholeOf(recordFolder: string, first: EventOf<'run'>): RunSource {
  try {
    return dividedSource(allSlices(recordFolder, first));
  } catch (error) {
    if (!(error instanceof DivisionFault)) throw error;
    throw new CommandError('duplicate-item', error.message, 'The lists of the slices were different ones.');
  }
}

/** All slices of a run, the newest record of each. Throws `CommandError` where one is not here. */
function allSlices(recordFolder: string, first: EventOf<'run'>): readonly RunSource[] {
  const { of } = recordedSlice(first)!;
  const found = slicesOf(recordFolder, divisionOf(first));
  const parts = Array.from({ length: of }, (_, i) => i + 1);
  const missing = parts.filter((part) => !found.has(part));
  if (missing.length === 0) return parts.map((part) => found.get(part)!);
  const message = `${counted(missing.length, 'slice')} of ${of} ${missing.length === 1 ? 'is' : 'are'} not recorded here: ${missing.join(', ')}`;
  const advice = 'Copy the folders of those runs from .batharon/runs of their machines into this one.';
  throw new CommandError('run-not-found', message, advice);
}

/** The newest record of each slice of a run. */
function slicesOf(recordFolder: string, division: string): ReadonlyMap<number, RunSource> {
  const found = new Map<number, RunSource>();
  for (const id of listRuns(recordFolder)) {
    const record = readRun(recordFolder, id);
    const [first] = record?.journal ?? [];
    const slice = first?.type === 'run' ? recordedSlice(first) : undefined;
    if (slice && !found.has(slice.part) && divisionOf(first as EventOf<'run'>) === division)
      found.set(slice.part, sourceOf(record!));
  }
  return found;
}
