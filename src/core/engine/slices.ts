import type { Once } from '../chain/model.ts';
import type { EventOf } from '../journal/events.ts';
import type { Slice } from './settings.ts';
import { crypto } from '../packages.ts';
import { StoreFault } from '../pacing/limiter-store.ts';
import { Interrupted } from './asking.ts';
import type { StepFrame } from './frame.ts';
import type { Identity } from './item-identity.ts';

/** The slice that does an item, from 1 on: by what the item is known by alone, whatever order the list has. */
function sliceOf({ known }: Pick<Identity, 'known'>, of: number): number {
  return (parseInt(crypto().hash('sha256', known).slice(0, 12), 16) % of) + 1;
}

/** The slice that a recorded run is; nothing of one that is not divided. */
export function recordedSlice({ options }: EventOf<'run'>): Slice | undefined {
  return (options as { slice?: Slice }).slice;
}

/** Whether an item of an outermost loop is done by this run; nothing where all are. */
export function ownItems({ item, run }: StepFrame): ((item: Identity) => boolean) | undefined {
  const { slice } = run.settings;
  return slice && !item ? (own) => sliceOf(own, slice.of) === slice.part : undefined;
}

/** Why a step is left to another slice; nothing where this run does it. */
export async function leftToOther(
  once: Once | undefined,
  { key, address, run }: StepFrame,
): Promise<string | undefined> {
  const { slice } = run.settings;
  if (!slice || once === undefined) return undefined;
  if (once === 'first-slice') return slice.part === 1 ? undefined : 'only the first slice does this';
  const isLast = slice.isLast ?? (await comesLast(key, address, run));
  return isLast ? undefined : 'only the slice that comes here last does this';
}

/** Where nobody can be asked about the others, the run pauses. */
async function comesLast(key: string, step: string, { isLastSlice, pausing }: StepFrame['run']): Promise<boolean> {
  try {
    return await isLastSlice(key);
  } catch (error) {
    if (!(error instanceof StoreFault)) throw error;
    pausing.begin({ why: 'shared-limits', step, detail: error.message });
    throw new Interrupted();
  }
}
