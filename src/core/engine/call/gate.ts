import type { CallStep } from '../../chain/model.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { headerOf, originKey, type HttpResponse } from '../../http/message.ts';
import type { Lane, Slots, Taken } from '../../pacing/lane.ts';
import { takeSlots } from '../../pacing/lane.ts';
import { MIDNIGHT_UTC } from '../../pacing/pace.ts';
import { WAIT_AT_MOST_MS } from '../../pacing/retry.ts';
import type { RunContext } from '../context.ts';
import type { Wait } from '../waiting.ts';

/** Requests in flight to an origin that is no api's. */
const AT_ONCE_ELSEWHERE = 6;
const NO_PACE = { windows: [], quotas: [] };

/** What lets a request out at its time, and takes in what the response says of the server's limits. */
export type Entered = Readonly<{
  slots: Slots;
  /** To be called when the request has ended, or is not to be sent. */
  leave(): void;
  /** Nothing to wait for where the response says nothing of limits. */
  hear(response: HttpResponse): Promise<void> | undefined;
}>;

/** The lanes of a request, the outer one first: that of its api or origin, and one of the call where it has a pace. */
export function lanesFor(
  endpoint: Endpoint | undefined,
  isOwn: boolean,
  url: string,
  step: CallStep | undefined,
  { lanes, runHost }: RunContext,
): readonly Lane[] {
  if (!endpoint || !isOwn) {
    const name = `origin ${originKey(url)}`;
    const resets = MIDNIGHT_UTC;
    return [lanes.lane({ name, pace: NO_PACE, resets, atOnce: AT_ONCE_ELSEWHERE, waitAtMostMs: WAIT_AT_MOST_MS })];
  }
  const { api, deployment, pace, resets, atOnce, waitAtMostMs } = endpoint;
  const place = `${api}@${deployment ?? ''}`;
  const outer = lanes.lane({ name: place, pace, resets, atOnce, waitAtMostMs });
  if (!step?.pace) return [outer];
  const name = `${place} ${runHost.inProject(step.nameSource.file)} ${step.name}`;
  return [outer, lanes.lane({ name, pace: step.pace, resets, atOnce: Infinity, waitAtMostMs })];
}

/**
 * Waits for a place among those in flight, and for a slot in each lane. Nothing is let out any more when the run is to
 * stop, or when a quota is spent; then the run pauses, unless it is told to stay.
 */
export async function enter(lanes: readonly Lane[], step: string, context: RunContext): Promise<Entered | undefined> {
  const { pausing, waits, lanes: all, clock, recorder } = context;
  const [outer] = lanes;
  const { places, options } = outer!;
  if (!places.tryTake() && !(await places.take(pausing.signal))) return undefined;
  for (;;) {
    let wait: Wait | undefined;
    const taken: Taken = await takeSlots(lanes, all.store, clock, pausing.signal, options.waitAtMostMs, (hold) => {
      if (hold && !wait) wait = waits.begin(hold.why, step, { detail: hold.detail, until: hold.until });
      if (!hold && wait) recorder.record(...wait.end());
    });
    if ('slots' in taken) {
      const { slots } = taken;
      const leave = () => {
        slots.ended();
        places.give();
      };
      return { slots, leave, hear: (response) => hear(outer!, response, slots.number) };
    }
    if ('stopped' in taken || pausing.signal.aborted) break;
    if (!context.stay) {
      pausing.begin({ why: 'quota', step, until: taken.until, detail: taken.spent });
      break;
    }
    const quota = waits.begin('quota', step, { detail: taken.spent, until: taken.until });
    await clock.sleep(Math.max(1, taken.until - clock.nowMs()), pausing.signal);
    recorder.record(...quota.end());
  }
  places.give();
  return undefined;
}

/** Few responses say anything of limits: the names of their headers tell. */
function hear(lane: Lane, { status, headers }: HttpResponse, slot: number | undefined): Promise<void> | undefined {
  const speaks = headers.some(([name]) => /^(x-)?rate-?limit|^retry-after$/i.test(name));
  if (!speaks) return undefined;
  return lane.hear(status, (name) => headerOf(headers, name), slot);
}
