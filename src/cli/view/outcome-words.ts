import type { PauseReason } from '../../core/journal/records.ts';
import { counted } from '../../core/value/show.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { storedBriefly } from '../../core/report/history.ts';
import type { Palette } from './palette.ts';

/** Pauses that were asked for from the start. */
export const AS_WANTED: ReadonlySet<PauseReason> = new Set<PauseReason>(['to', 'only', 'watch']);

/** How a run that stays open stopped; `outcome` says how what was wanted of it went. */
export function pausedWords({ why, detail = '' }: EventOf<'paused'>, outcome: string, { warning }: Palette): string {
  switch (why) {
    case 'to':
      return `${outcome} up to ${detail}`;
    case 'only':
      return `${outcome}, only ${detail}`;
    case 'watch':
      return outcome;
    case 'interrupt':
      return warning('interrupted');
    default:
      return warning('paused');
  }
}

/** What a step bound: `due: 6 items, draught: 5.6`. */
export function boundWords({ binds = [] }: EventOf<'ended'>): string {
  return binds.map(({ name, value }) => `${name}: ${storedBriefly(value)}`).join(', ');
}

/** Why a step did not pass, in a few words; `room` is how many columns there are for them. */
export function outcomeWord(event: EventOf<'ended'>, room = Infinity): string {
  if (event.outcome === 'cut') return 'interrupted';
  if (event.problem?.seen) return `${event.problem.code}${event.why === undefined ? '' : `, ${event.why}`}`;
  const failed = (event.expects ?? []).filter(({ passed }) => !passed).length;
  if (failed > 0) {
    const words = `${failed} of ${counted(event.expects!.length, 'expectation')} failed`;
    return words.length <= room ? words : `${failed} of ${event.expects!.length} failed`;
  }
  return event.problem?.code ?? 'failed';
}

/** Where a response came from that was not asked for now. */
export function doneBefore({ outcome, from }: EventOf<'ended'>): string | undefined {
  if (outcome === 'reused') return from ? `done in run ${from.run}` : 'done before';
  return outcome === 'fresh' ? `from run ${from!.run}` : undefined;
}
